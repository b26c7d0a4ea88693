import { createElement } from 'react';
import { renderToString } from 'react-dom/server';
import { describe, expect, it } from 'vitest';
import type { ProvisionProps } from '../../src/views/provision/facts';
import { firstPlan, planFor } from '../../src/views/provision/plan';
import { Provision } from '../../src/views/provision/Provision';
import { facts, input, spec } from '../core/setup/facts';

const customer = {
  code: 'SVG',
  name: 'Saltmirren Veterinary Group',
  mark: { code: 'SVG', hue: 290, shape: 0, pattern: 0 },
  site: 'KQ',
  people: 96,
};

const withTwoSizes = {
  ...facts,
  rates: [...facts.rates, { meter: 'host', size: 's4x16', unit: 'hour', price: '0.128', from: 0, to: null }],
  site: { ...facts.site, sizes: [...facts.site.sizes, { key: 's4x16', vcpu: 4, memoryGiB: 16 }] },
} as const;

describe('the plan of a new environment', () => {
  it('is data alone: it reaches the page from the server, and from its worker, as it was', () => {
    const plan = planFor({ turn: 3, input, facts: withTwoSizes });
    expect(plan.outlook.wanted.length).toBeGreaterThan(5);
    expect(structuredClone(plan)).toEqual(plan);
    expect(JSON.parse(JSON.stringify(plan))).toEqual(plan);
    expect(plan.turn).toBe(3);
  });

  it('is drawn alike on the server and in a page that was given it as data', () => {
    const props: ProvisionProps = {
      customer,
      sites: [{ code: 'KQ', name: 'Kelp Quay', kind: 'own nodes' }],
      templates: [{ code: 'shared-office', revision: 1, document: spec }],
      views: [],
      facts: withTwoSizes,
      plan: firstPlan(customer, withTwoSizes),
    };
    const drawn = renderToString(createElement(Provision, props));
    const given = JSON.parse(JSON.stringify(props)) as ProvisionProps;
    expect(renderToString(createElement(Provision, given))).toBe(drawn);
    expect(drawn).toContain('Shared office');
    expect(drawn).toContain('Ready from the start');
    expect(drawn).not.toContain('has no name yet. Begin');
  });
});
