import Joi from 'joi';
import { blocks, defineChange, passes } from '../planning';
import { SERVICES } from '../resources';
import { ok } from '../result';
import { nameOf } from './common';

interface ProvideServices {
  readonly site: string;
}

/** What the environment is called that holds them; one a site. */
const called = (site: string): string => `services-${site.toLowerCase()}`;

/** Makes the MSP's shared services at a site: a network with directories, gateways and name servers for everyone there. */
export const provideServices = defineChange<ProvideServices>({
  kind: 'provide-services',
  subject: 'new environment',
  of: 'the MSP',
  verb: 'Provide shared services',
  input: Joi.object<ProvideServices>({ site: Joi.string().max(16).required() }),
  right: 'build',
  confirm: 'press',
  undo: 'none',
  whole: true,
  title: (_input, facts) => `Provide shared services at ${facts.site.name}`,
  edit: (_intent, { site }) =>
    ok({
      name: called(site),
      site,
      template: null,
      naming: '',
      tags: {},
      people: 0,
      pools: [],
      more: { [SERVICES]: [{}] },
    }),
  policy: () => ({ atATime: 2, failureLimit: 1 }),
  checks: (_edited, { site }, { customer, site: { name } }) => [
    customer.environments.includes(called(site))
      ? blocks('name', 'Shared services', `${name} has them already`, 'Nothing needs to be done.')
      : passes('name', 'Shared services', `${name} has none yet`),
  ],
});

/** Joins the network of what stood before there were shared services with them. */
export const joinServices = defineChange<Record<string, never>>({
  kind: 'join-services',
  subject: 'environment',
  of: 'customers',
  verb: 'Join with the shared services',
  input: Joi.object<Record<string, never>>({}),
  right: 'build',
  confirm: 'press',
  undo: 'none',
  title: (_input, facts) => `Join ${nameOf(facts)} with the shared services`,
  // Both sides follow from what is there by now.
  edit: (intent) => ok(intent),
  policy: () => ({ atATime: 2, failureLimit: 1 }),
  people: () => 0,
});
