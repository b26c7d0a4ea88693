import Joi from 'joi';
import { retire } from '../../core/changes';
import type { RunState } from '../../core/runs';
import { storedForm } from '../../core/stored';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { beginChange, proposeChange } from '../changes';
import { notFound } from '../problem';
import type { ParentKind, PartMade } from '../parent-runs';
import { resumeRun } from '../runs';

interface Leaving {
  readonly environment: string;
}

/** Retires each environment of a customer who leaves. */
export const retireEach: ParentKind<Leaving> = {
  kind: 'leave',
  right: 'decide',
  form: storedForm({
    name: 'environment to be retired',
    schema: Joi.object<Leaving>({ environment: Joi.string().required() }),
    upgrades: [],
  }),
  carryOut: async (app, scope, { environment }, { reason }) => {
    const before = await goingOf(app, scope, environment);
    if (before) return before;
    const asked = { input: {}, environment };
    // The one before changed what this one would do: with the last environment at a site goes its network.
    const { fingerprint } = await proposeChange(app, scope, retire, asked);
    const { code } = scope.customer;
    const { run } = await beginChange(app, scope, retire, { ...asked, fingerprint, reason, code });
    return { says: 'is being retired', run };
  },
};

/** The run that retires an environment already, resumed where it has stopped; undefined: nobody has begun that. */
async function goingOf(app: App, scope: CustomerScope, environment: string): Promise<PartMade | undefined> {
  const row = await app.db.row<{
    wanted: string;
    retired_at: number | null;
    run: string | null;
    state: RunState | null;
  }>(
    `SELECT e.wanted, e.retired_at, r.id AS run, r.state FROM environment e
       LEFT JOIN run r ON (r.customer_id, r.environment_id) = (e.customer_id, e.id) AND r.kind = 'retire'
     WHERE e.customer_id = ? AND e.id = ? ORDER BY r.id DESC LIMIT 1`,
    [scope.customer.id, environment],
  );
  if (!row) throw notFound('environment');
  if (row.retired_at !== null) return { says: 'is retired' };
  if (row.wanted !== 'retired' || row.run === null) return undefined;
  if (row.state === 'stopped') await resumeRun(app, scope, row.run);
  return { says: 'is being retired', run: row.run };
}
