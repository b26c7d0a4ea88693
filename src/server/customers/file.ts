import { stringify } from 'yaml';
import { newCustomerSchema, type FileOutcome, type NewCustomer, type WholeCustomer } from '../../contract';
import { changeableOf } from '../../contract/changeable';
import { MOST_FAULTS, type Path } from '../../core/documents';
import { enter, withoutRequest, type Scope } from '../access';
import type { App } from '../app';
import { Problem } from '../problem';
import { inThread } from '../threads';
import { aboutCustomer, changeCustomer, changedFields, refuseDetails } from './about';
import { customersFileTask, faultPlacesTask } from './thread';
import { createCustomer, refuseNew } from './write';

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
 * Takes on the customers of a file, or changes them. `keep` false: it is only looked at. Nothing is kept of a file with
 * faults. Each customer is a transaction of its own: sent again after it was cut off, it goes on where it was.
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
  for (const { plan, code } of kept ? plans : []) {
    if (plan.do === 'new') await createCustomer(app, scope, plan.customer);
    if (plan.do === 'changed')
      await changeCustomer(app, await enter(app.db, scope, code), {
        ...changeableOf(plan.customer),
        reason: 'from a file',
      });
  }
  return {
    kept,
    faults: faults.slice(0, MOST_FAULTS),
    customers: plans.map(({ code, plan }) => ({
      code,
      outcome: plan.do,
      changed: plan.do === 'changed' ? [...plan.changed] : [],
      says: plan.do === 'refused' ? plan.faults.map(({ field, says }) => `${field} ${says}`).join('; ') : '',
    })),
  };
}
