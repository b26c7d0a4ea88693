import { describe, expect, it } from 'vitest';
import { faultOf } from '../../src/main/request-fault';

describe('a request that cannot be handed on', () => {
  const said = (url: string, method = 'GET'): string => {
    const fault = faultOf({ method, url, headers: { host: 'laager.test' } });
    return fault ? `${fault.status} ${fault.code}` : 'handed on';
  };

  it.each([
    ['/', 'handed on'],
    ['/customers/SVG', 'handed on'],
    ['/customers/SVG?find=100%25', 'handed on'],
    ['/customers/S%20G', 'handed on'],
    ['/api/v1/customers', 'handed on'],
    ['/api/v1/customers/a%2Fb', 'handed on'],
    ['/apiary', 'handed on'],
    ['/%', '400 address'],
    ['/api/v1/%E0%A4%A', '400 address'],
    ['/api/v1/%2541', '400 address'],
    ['/a%2Fb%41', '400 address'],
    ['/api', '404 not-found'],
    ['/api/', '404 not-found'],
    ['/api/v2/customers', '404 not-found'],
  ])('%s: %s', (url, expected) => expect(said(url)).toBe(expected));

  it('is one with a method that is nobody’s', () => expect(said('/', 'TRACE')).toBe('405 method'));
});
