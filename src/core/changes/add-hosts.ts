import Joi from 'joi';
import { lastDiskOf, withPool } from '../intent';
import { defineChange } from '../planning';
import { moreHosts } from '../resources';
import { ok, refuse } from '../result';
import { nameOf, poolField, poolIn } from './common';

interface AddHosts {
  readonly pool: string;
  readonly hosts: number;
  /** As many of them from the ready shelf as are ready there. */
  readonly ready?: boolean;
}

export const addHosts = defineChange<AddHosts>({
  kind: 'add-hosts',
  subject: 'environment',
  verb: 'Add hosts',
  input: Joi.object<AddHosts>({
    pool: poolField,
    hosts: Joi.number().integer().min(1).max(500).required().description('So many more'),
    ready: Joi.boolean().description('As many of them from the ready shelf as are ready there'),
  }),
  right: 'build',
  confirm: 'press',
  touches: ['new host'],
  undo: 'by difference',
  title: ({ hosts, pool }, facts) =>
    `Add ${hosts === 1 ? 'a host' : `${hosts} hosts`} to ${pool} of ${nameOf(facts)}`,
  edit: (intent, { pool: role, hosts, ready }) => {
    const found = poolIn(intent, role);
    if (!found.ok) return found;
    const { pool } = found.value;
    const total = pool.hosts.length + hosts;
    if (total > pool.ceiling)
      return refuse({
        hosts: `${role} is made for ${pool.ceiling} hosts at most; it has ${pool.hosts.length}`,
      });
    const last = lastDiskOf(found.value.intent, role);
    return ok(
      withPool(found.value.intent, role, (one) => moreHosts(one, hosts, ready === true ? hosts : 0, last)),
    );
  },
  policy: () => ({ atATime: 5, failureLimit: 2 }),
  people: () => 0,
});
