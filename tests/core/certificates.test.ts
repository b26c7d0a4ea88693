import { describe, expect, it } from 'vitest';
import {
  certificateFaults,
  certificateReminder,
  coversName,
  daysLeft,
  endOf,
  type Certificate,
  type CertificateChain,
} from '../../src/core/certificates';

const DAY = 86_400_000;
const NOW = Date.UTC(2026, 10, 26);

const one = (over: Partial<Certificate> = {}): Certificate => ({
  subject: 'desks.svg.example',
  issuer: 'Coast Authority',
  names: ['desks.svg.example'],
  from: NOW - DAY,
  until: NOW + 90 * DAY,
  isAuthority: false,
  fingerprint: 'f',
  ...over,
});
const authority = (over: Partial<Certificate> = {}): Certificate =>
  one({ subject: 'Coast Authority', issuer: 'Coast Root', names: [], isAuthority: true, ...over });
const chain = (over: Partial<CertificateChain> = {}): CertificateChain => ({
  leaf: one(),
  keyFits: true,
  issuers: [authority()],
  ends: 'here',
  strangers: 0,
  ...over,
});
const says = (given: CertificateChain, name = 'desks.svg.example'): string[] =>
  certificateFaults(given, name, NOW).map((fault) => `${fault.field}: ${fault.says}`);

describe('a name of a certificate', () => {
  // RFC 9525, section 6.3, and its rules on wildcards: a whole left-most label, and one label only.
  it.each([
    ['desks.svg.example', 'desks.svg.example', true],
    ['Desks.SVG.example', 'desks.svg.example', true],
    ['*.svg.example', 'desks.svg.example', true],
    ['*.svg.example', 'svg.example', false],
    ['*.svg.example', 'a.desks.svg.example', false],
    ['d*.svg.example', 'desks.svg.example', false],
    ['desks.*.example', 'desks.svg.example', false],
    ['*.svg.example', '.svg.example', false],
    ['desks.svg.example', 'desks.svg.example.test', false],
  ])('%s covers %s: %s', (own, name, covers) => expect(coversName(own, name)).toBe(covers));
});

describe('a certificate', () => {
  it('that is whole, fits and holds has no fault', () => expect(says(chain())).toEqual([]));

  it.each<[string, CertificateChain, string[]]>([
    ['with another key', chain({ keyFits: false }), ['key: is not the key of desks.svg.example']],
    [
      'for other names',
      chain({ leaf: one({ names: ['www.svg.example', '*.fps.example'] }) }),
      ['name: desks.svg.example is not among its names: www.svg.example, *.fps.example'],
    ],
    [
      'for no name',
      chain({ leaf: one({ names: [] }) }),
      ['name: desks.svg.example is not among its names: it has none'],
    ],
    [
      'that has ended',
      chain({ leaf: one({ until: NOW }) }),
      ['certificate: desks.svg.example ended on 2026-11-26'],
    ],
    [
      'signed by one that has ended',
      chain({ issuers: [authority({ until: NOW - DAY })] }),
      ['certificate: Coast Authority ended on 2026-11-25'],
    ],
    [
      'of a later day',
      chain({ leaf: one({ from: NOW + 3 * DAY }) }),
      ['certificate: holds only from 2026-11-29 on'],
    ],
    [
      'signed by one that holds only later',
      chain({ issuers: [authority({ from: NOW + 3 * DAY })] }),
      ['certificate: Coast Authority holds only from 2026-11-29 on'],
    ],
    [
      'signed by one that may not sign',
      chain({ issuers: [authority({ isAuthority: false })] }),
      ['certificate: Coast Authority may not sign others'],
    ],
    [
      'whose chain is not whole',
      chain({ ends: 'nowhere' }),
      ['certificate: the chain is not whole: Coast Root, who signed Coast Authority, is not in it'],
    ],
    [
      'alone, and not of one that is trusted',
      chain({ issuers: [], ends: 'nowhere' }),
      ['certificate: the chain is not whole: Coast Authority, who signed desks.svg.example, is not in it'],
    ],
  ])('%s is refused', (_what, given, expected) => expect(says(given)).toEqual(expected));

  it('is held against no name where there is none yet', () => expect(says(chain(), '')).toEqual([]));

  it('ends well where its chain ends in one that is trusted', () =>
    expect(says(chain({ ends: 'trusted' }))).toEqual([]));
});

describe('the end of a certificate', () => {
  it.each([
    [46 * DAY, undefined],
    [45 * DAY, undefined],
    [45 * DAY - 1, 'the certificate of desks ends on 2027-01-09, in 44 days'],
    [DAY, 'the certificate of desks ends on 2026-11-27, in 1 day'],
    [1, 'the certificate of desks ends on 2026-11-26, in 0 days'],
    [0, 'the certificate of desks ended on 2026-11-26'],
    [-DAY, 'the certificate of desks ended on 2026-11-25'],
  ])('%d ms away is told from 45 days before: %s', (away, expected) =>
    expect(certificateReminder('desks', NOW + away, NOW)).toBe(expected),
  );

  // RFC 5280, section 6.1.3 (a) (2): every certificate of the path has to be within its time.
  it('comes with the first of its chain that ends', () => {
    const short = authority({ until: NOW + 10 * DAY });
    expect(endOf(chain({ issuers: [short] }))).toBe(short.until);
    expect(endOf(chain({ leaf: one({ until: NOW + DAY }), issuers: [short] }))).toBe(NOW + DAY);
    expect(endOf(chain({ issuers: [] }))).toBe(one().until);
  });

  it('is counted in whole days', () =>
    expect([daysLeft(NOW + 2 * DAY - 1, NOW), daysLeft(NOW - 1, NOW)]).toEqual([1, -1]));
});
