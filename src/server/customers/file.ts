import { stringify } from 'yaml';
import { newCustomerSchema, type FileOutcome, type NewCustomer, type WholeCustomer } from '../../contract';
import { changeableOf } from '../../contract/changeable';
import { MOST_FAULTS, type Path } from '../../core/documents';
import { enter, withoutRequest, type CustomerScope, type Scope } from '../access';
import type { App } from '../app';
import { Problem } from '../problem';
import { inThread } from '../threads';
import { write } from '../write';
import { aboutCustomer, changedFields, keepChanges, lockOf, refuseDetails } from './about';
import { customersFileTask, faultPlacesTask } from './thread';
import { refuseNew, takeOn } from './write';

/** Customers as a YAML file: read back, it is the same. */
export const customersYaml = (customers: readonly WholeCustomer[]): string =>
  `# yaml-language-server: $schema=/api/v1/customers.schema.json\n${stringify({ customers }, { lineWidth: 110 })}`;

type Planned =
  | { readonly do: 'new'; readonly customer: NewCustomer }
  | { readonly do: 'changed'; readonly customer: WholeCustomer; readonly changed: readonly string[] }
  | { readonly do: 'same' }
  | { readonly do: 'refused'; readonly faults: readonly { field: string; says: string }[] };

/** What is to be done with one customer of a file, so that it is as the file says. */
async function planFor(app: App, scope: Scope, wanted: WholeCustomer): Promise<Planned> {
  try {
    refuseDetails(wanted);
    const inside = await enter(app.db, scope, wanted.code).catch((error: unknown) => {
      if (error instanceof Problem && error.status === 404) return undefined;
      throw error;
    });
    if (!inside) {
      const { error, value } = newCustomerSchema.validate(wanted, { errors: { label: false } });
      if (error)
        return {
          do: 'refused',
          faults: [{ field: error.details[0]?.path.join('.') ?? '', says: error.message }],
        };
      await refuseNew(app.db, value);
      return { do: 'new', customer: value };
    }
    const before = await aboutCustomer(app.db, inside, app.clock.now());
    const fixed = (['state', 'plan', 'site', 'currency', 'card'] as const).filter(
      (field) => before[field] !== wanted[field],
    );
    if (fixed.length > 0)
      return {
        do: 'refused',
        faults: fixed.map((field) => ({
          field,
          says: `is ${before[field]}; it is changed on the customer’s page`,
        })),
      };
    const changed = changedFields(before, changeableOf(wanted));
    return changed.length === 0 ? { do: 'same' } : { do: 'changed', customer: wanted, changed };
  } catch (error) {
    if (!(error instanceof Problem)) throw error;
    const fields = Object.entries(error.more.fields ?? { code: error.detail });
    return { do: 'refused', faults: fields.map(([field, says]) => ({ field, says })) };
  }
}

/**
 * Takes on the customers of a file, or changes them. `keep` false: it is only looked at. All of it is kept or nothing, and
 * nothing of a file with faults.
 */
export async function importCustomers(
  app: App,
  asked: Scope,
  text: string,
  keep: boolean,
): Promise<FileOutcome> {
  const scope = withoutRequest(asked);
  const { customers, faults: first } = await inThread(customersFileTask, text);
  const wrong: { path: Path; says: string }[] = [];
  const plans: { code: string; plan: Planned }[] = [];
  for (const [n, wanted] of first.length > 0 ? [] : customers.entries()) {
    const plan = await planFor(app, scope, wanted);
    plans.push({ code: wanted.code, plan });
    if (plan.do === 'refused')
      for (const { field, says } of plan.faults)
        wrong.push({ path: ['customers', n, ...field.split('.')], says });
  }
  const placed = wrong.slice(0, MOST_FAULTS);
  const faults = [
    ...first,
    ...(placed.length > 0 ? await inThread(faultPlacesTask, { text, wrong: placed }) : []),
  ];
  const kept = keep && faults.length === 0;
  const outcome: FileOutcome = {
    kept,
    faults: faults.slice(0, MOST_FAULTS),
    customers: plans.map(({ code, plan }) => ({
      code,
      outcome: plan.do,
      changed: plan.do === 'changed' ? [...plan.changed] : [],
      says: plan.do === 'refused' ? plan.faults.map(({ field, says }) => `${field} ${says}`).join('; ') : '',
    })),
  };
  return kept ? keepAll(app, asked, plans, outcome) : outcome;
}

/** Takes all of a file in, or nothing of it: whoever sends it again with its key gets what came of it. */
async function keepAll(
  app: App,
  asked: Scope,
  plans: readonly { readonly code: string; readonly plan: Planned }[],
  outcome: FileOutcome,
): Promise<FileOutcome> {
  const scope = withoutRequest(asked);
  const now = app.clock.now();
  const changing: { readonly inside: CustomerScope; readonly customer: WholeCustomer }[] = [];
  for (const { plan, code } of plans)
    if (plan.do === 'changed')
      changing.push({ inside: await enter(app.db, scope, code), customer: plan.customer });
  // Two files that name the same customers wait for each other, and neither for the other.
  const locks = changing
    .map(({ inside }) => lockOf(inside))
    .sort((a, b) => (String(a.key.id) < String(b.key.id) ? -1 : 1));
  return write(app, asked, locks, async (tx) => {
    for (const { plan } of plans) if (plan.do === 'new') await takeOn(tx, scope, plan.customer, now);
    for (const { inside, customer } of changing)
      await keepChanges(tx.inside(inside), inside, { ...changeableOf(customer), reason: 'from a file' }, now);
    return outcome;
  });
}
