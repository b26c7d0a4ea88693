import { hash } from '@node-rs/argon2';
import { isPrivate, parseBlock } from '../core/addressing';
import { checkTemplate } from '../core/ground';
import { seal } from '../server/access';
import type { App } from '../server/app';
import { newId, transaction } from '../server/db';
import { createCustomer } from '../server/customers';
import { readGround, trySignIn } from '../server/provider';
import {
  CARDS,
  CUSTOMERS,
  DEMO_PASSWORD,
  OPERATORS,
  PLANS,
  PROVIDER,
  RANGES,
  SHARED_OFFICE,
} from './scenario';

const DAY = 86_400_000;

const publicRanges = RANGES.filter(({ cidr }) => {
  const range = parseBlock(cidr);
  return !range.ok || !isPrivate(range.value);
});
if (publicRanges.length > 0) throw new Error('the demo’s ranges are not private (RFC 1918)');

const templateFaults = checkTemplate(SHARED_OFFICE);
if (templateFaults.length > 0) throw new Error(templateFaults.join('; '));

/** The ground: provider, sites, plans, rates, the template, operators. At the start of the history. */
export async function seedGround(
  app: App,
  provider: { url: string; secret: string },
  start: number,
  today: number,
): Promise<void> {
  await app.db.write(
    'INSERT INTO provider (code, name, url, account, secret_sealed) VALUES (?, ?, ?, ?, ?)',
    [PROVIDER.code, PROVIDER.name, provider.url, PROVIDER.account, seal(app.secretKey, provider.secret)],
  );
  const { worked, says } = await trySignIn(app.db, app.provider, start);
  if (!worked) throw new Error(says);
  await readGround(app.db, app.provider, PROVIDER.code, start, app.clock.wall());
  await transaction(app.db, async (connection) => {
    for (const range of RANGES)
      await connection.write('INSERT INTO address_range (site_code, cidr) VALUES (?, ?)', [
        range.site,
        range.cidr,
      ]);
    for (const plan of PLANS)
      await connection.write(
        'INSERT INTO plan (code, name, most_hosts, most_people, sizes) VALUES (?, ?, ?, ?, ?)',
        [plan.code, plan.name, plan.mostHosts, plan.mostPeople, JSON.stringify(plan.sizes)],
      );
    const change = today - 40 * DAY;
    for (const card of CARDS) {
      await connection.write('INSERT INTO rate_card (code, name, currency) VALUES (?, ?, ?)', [
        card.code,
        card.name,
        card.currency,
      ]);
      const add = (
        rate: (typeof card.rates)[number],
        price: string,
        from: number,
        to: number | null,
      ): Promise<number> =>
        connection.write(
          'INSERT INTO rate (card_code, meter, size, unit, price, from_at, to_at) VALUES (?, ?, ?, ?, ?, ?, ?)',
          [card.code, rate.meter, rate.size, rate.unit, price, from, to],
        );
      for (const rate of card.rates) {
        await add(rate, rate.price, start - 365 * DAY, rate.later === null ? null : change);
        if (rate.later !== null) await add(rate, rate.later, change, null);
      }
    }
    await connection.write('INSERT INTO template (code, name, says) VALUES (?, ?, ?)', [
      'shared-office',
      'Shared office',
      'One shared pool of desktops for office work, with profiles on a share',
    ]);
    await connection.write(
      'INSERT INTO template_revision (template_code, revision, spec, note, created_at) VALUES (?, 1, ?, ?, ?)',
      ['shared-office', JSON.stringify(SHARED_OFFICE), 'first revision', start],
    );
  });
}

/** Operators and customers; each customer's people come by the same import that operators use. */
export async function seedCustomers(app: App, start: number): Promise<void> {
  const passwordHash = await hash(DEMO_PASSWORD);
  const system = { id: 'system', name: 'Laager', role: 'system' } as const;
  await transaction(app.db, async (connection) => {
    const ids = new Map<string, string>();
    for (const [mark, customer] of CUSTOMERS.entries()) {
      const card = customer.currency.toLowerCase();
      const state = customer.code === 'QFB' ? 'trial' : 'active';
      ids.set(
        customer.code,
        await createCustomer(connection, system, { ...customer, card, state, mark }, start),
      );
    }
    for (const operator of OPERATORS) {
      const id = newId();
      await connection.write(
        'INSERT INTO operator (id, name, mail, role, reach, password_hash) VALUES (?, ?, ?, ?, ?, ?)',
        [
          id,
          operator.name,
          operator.mail,
          operator.role,
          operator.customers ? 'listed' : 'every',
          passwordHash,
        ],
      );
      for (const code of operator.customers ?? [])
        await connection.write('INSERT INTO operator_customer (operator_id, customer_id) VALUES (?, ?)', [
          id,
          ids.get(code) ?? '',
        ]);
    }
  });
}
