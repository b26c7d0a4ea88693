import { followOverrides } from '../../core/changes';
import type { HostFacts } from '../../core/facts';
import { nextChange, type Override } from '../../core/overrides';
import { editedOf, proposeForHosts, type Proposal } from '../../core/planning';
import type { Wanted } from '../../core/resources';
import { systemScope, type CustomerScope } from '../access';
import type { App } from '../app';
import { dropOverrides, environmentsDue, noteDue, postpone, type DueEnvironment } from '../overrides';
import { write } from '../write';
import { beginByItself } from './by-itself';
import { readHostFacts } from './host-facts';

/** So many environments are looked at in one go. */
const MOST = 200;
/** What is in the way is so for longer: it is looked at again after so long. */
const AGAIN_MS = 10_000;

/** Switches hosts whose overrides have begun or ended by now. What is in the way is looked at again later. */
export async function keepOverridesInForce(app: App): Promise<void> {
  for (const due of await environmentsDue(app.db, app.clock.now(), MOST))
    try {
      if (!(await follow(app, due))) await postpone(app.db, due, app.clock.now() + AGAIN_MS);
    } catch (error) {
      // One that cannot be read keeps no other waiting.
      app.log.error({ environment: due.environment, error: String(error) }, 'overrides were not followed');
      await postpone(app.db, due, app.clock.now() + AGAIN_MS);
    }
}

/** @returns whether its hosts follow now, or have nothing to follow */
async function follow(app: App, { customer, environment, policy }: DueEnvironment): Promise<boolean> {
  const scope = systemScope(customer);
  const facts = await factsOf(app, scope, environment);
  if (facts.environment?.wanted === 'retired' || behind(app, facts).length === 0) {
    await settle(app, scope, environment);
    return true;
  }
  const asked = { input: {}, environment, ...(policy ? { policy } : {}) };
  const reason =
    facts.customer.state === 'paused' ? 'the customer is paused' : 'what was set otherwise is over';
  return (await beginByItself(app, scope, followOverrides.kind, asked, reason)) !== undefined;
}

const NOW = { hold: undefined, isAnew: false } as const;

const factsOf = async (app: App, scope: CustomerScope, environment: string): Promise<HostFacts> =>
  (await readHostFacts(app, app.db, scope, environment, NOW)).facts;

/** Hosts of which something else is noted as wanted than what is wanted of them by now. */
function behind(app: App, facts: HostFacts): Wanted[] {
  const { wanted } = proposeForHosts(app.catalogue.kinds, followOverrides, {}, facts);
  return editedOf(facts, wanted);
}

/** Nothing is to be switched: it is noted when to look again. */
const settle = (app: App, scope: CustomerScope, environment: string): Promise<void> =>
  write(
    app,
    scope,
    [{ table: 'environment', key: { customer_id: scope.customer.id, id: environment } }],
    async (tx) => {
      const { facts } = await readHostFacts(app, tx, scope, environment, NOW);
      await dropOverrides(tx, scope, environment, facts.now);
      await noteDue(tx, scope, environment, nextChange(facts.overrides ?? [], facts.now) ?? null);
    },
  );

/**
 * What would be done with an environment's hosts if other overrides were in force. Nothing is written.
 * @param as the kind of change that it amounts to: where that needs approval, so does this
 */
export async function proposeOverrides(
  app: App,
  scope: CustomerScope,
  environment: string,
  as: string,
  overrides: (now: readonly Override[]) => readonly Override[],
): Promise<Proposal> {
  const { facts } = await readHostFacts(app, app.db, scope, environment, { ...NOW, isAnew: true });
  const after = { ...facts, overrides: overrides(facts.overrides ?? []) };
  return proposeForHosts(app.catalogue.kinds, { ...followOverrides, partOf: as }, {}, after);
}
