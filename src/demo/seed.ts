import { NO_DETAILS } from '../contract';
import { SYSTEM } from '../server/access';
import type { App } from '../server/app';
import { createCustomer } from '../server/customers';
import { createOperator, keepGroupRules } from '../server/operators';
import { keepPlan } from '../server/plans';
import { addRate, createCard } from '../server/pricing';
import { connectProvider, takePrices } from '../server/providers';
import { addRange } from '../server/sites';
import { addRevision } from '../server/templates';
import {
  CARDS,
  CUSTOMERS,
  LATER_VERSION,
  DEMO_PASSWORD,
  PLANS,
  PROVIDERS,
  RANGES,
  type DemoOperator,
} from './scenario';
import { TEMPLATES } from './templates';

const DAY = 86_400_000;

/** What a plan has where the scenario says nothing of it. */
export const planless = {
  sizes: [],
  sites: [],
  fees: [],
  retentionDays: 30,
  localAdministrator: false,
  included: [],
  readyHosts: 0,
  from: null,
  note: '',
} as const;

/** Where the simulated providers are, by their code, and the secret that lets us in. */
export interface Simulated {
  readonly urls: Readonly<Record<(typeof PROVIDERS)[number]['code'], string>>;
  readonly secret: string;
}

/** The ground: providers with their sites, address ranges, plans, rates, templates. At the start of the history. */
export async function seedGround(
  app: App,
  simulated: Simulated,
  start: number,
  today: number,
): Promise<void> {
  for (const provider of PROVIDERS)
    await connectProvider(app, SYSTEM, {
      ...provider,
      url: simulated.urls[provider.code],
      secret: simulated.secret,
      secretEndsAt: null,
    });
  for (const { code } of PROVIDERS) await takePrices(app, SYSTEM, code, null);
  for (const { site, cidr } of RANGES) await addRange(app, SYSTEM, site, cidr);
  for (const { code, ...plan } of PLANS) await keepPlan(app, SYSTEM, code, { ...planless, ...plan });
  const change = today - 40 * DAY;
  for (const { rates, ...card } of CARDS) {
    await createCard(app, SYSTEM, { ...card, rates: [] });
    for (const { meter, size, unit, price, later } of rates) {
      const rate = { meter, unit, size: size === '' ? null : size };
      await addRate(app, SYSTEM, card.code, { ...rate, price, from: start - 365 * DAY, to: null });
      if (later !== null)
        await addRate(app, SYSTEM, card.code, { ...rate, price: later, from: change, to: null });
    }
  }
  for (const template of TEMPLATES) await addRevision(app, SYSTEM, { owner: '', ...template });
}

/** The eight customers; each one's people come by the same import that operators use. */
export async function seedCustomers(app: App): Promise<void> {
  for (const { people: _people, ...customer } of CUSTOMERS)
    await createCustomer(app, SYSTEM, {
      ...NO_DETAILS,
      ...customer,
      card: customer.currency.toLowerCase(),
      state: customer.code === 'QFB' ? 'trial' : 'active',
    });
}

/** A further version of a plan: whoever is on the one before stays on it. */
export async function seedLaterVersion(app: App, today: number): Promise<void> {
  const { code, daysAgo, terms } = LATER_VERSION;
  await keepPlan(app, SYSTEM, code, { ...planless, ...terms, from: today - daysAgo * DAY });
}

/** Those whose reach is listed come after the customers that are listed. */
export async function seedOperators(app: App, operators: readonly DemoOperator[]): Promise<void> {
  for (const { customers = null, ...operator } of operators)
    await createOperator(app, SYSTEM, { ...operator, customers, password: DEMO_PASSWORD });
}

/** What the groups at the identity service make of whoever comes from there. */
export const seedGroups = (app: App): Promise<void> =>
  keepGroupRules(app, SYSTEM, [
    { group: 'desk', role: 'engineer', customers: null },
    { group: 'books', role: 'bookkeeper', customers: null },
  ]);
