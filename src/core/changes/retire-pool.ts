import Joi from 'joi';
import { defineChange } from '../planning';
import { ok, refuse } from '../result';
import { dataField, forGood, nameOf, poolField, poolIn, type DataChoice } from './common';

interface RetirePool extends DataChoice {
  readonly pool: string;
}

/** Takes one pool of several away, with its hosts and items; its profiles are retained or destroyed. The environment and its other pools stay. */
export const retirePool = defineChange<RetirePool>({
  kind: 'retire-pool',
  subject: 'environment',
  verb: 'Retire the pool',
  input: Joi.object<RetirePool>({
    pool: poolField,
    data: dataField,
  }),
  right: 'build',
  confirm: 'type the code',
  destroys: true,
  partOf: 'retire',
  touches: ['host gone'],
  undo: 'none',
  needs: ['served'],
  retains: ({ data }) => data === 'kept',
  title: ({ pool }, facts) => `Retire ${pool} of ${nameOf(facts)}`,
  edit: (before, { pool: role }) => {
    const found = poolIn(before, role);
    if (!found.ok) return found;
    const { intent, pool } = found.value;
    if (intent.pools.length === 1) return refuse({ pool: 'is the only one: retire the environment' });
    const owned = pool.hosts.filter(({ person }) => person !== undefined);
    if (owned.length > 0)
      return refuse({
        pool: `${owned.length === 1 ? 'one of its desktops belongs' : `${owned.length} of its desktops belong`} to people: end their desktops first`,
      });
    return ok({ ...intent, pools: intent.pools.filter((one) => one !== pool) });
  },
  policy: () => forGood,
});
