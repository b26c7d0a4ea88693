import type { Preview } from '../../contract';
import { customerCode } from '../../contract';
import { writeBlock } from '../../core/addressing';
import { isZone } from '../../core/calendar';
import type { Money } from '../../core/money';
import { capacityOf, mayMeet, nameAt, nameFaults, parseRule, type NamingRule } from '../../core/naming';
import { dearerBy } from '../../core/plans';
import type { Scope } from '../access';
import type { Connection } from '../db';
import { newestAt, planVersionsOf } from '../plans';
import { freeSpace } from '../sites';
import { listTemplates } from '../templates';
import { readDetails } from './about';
import { calendarFault, publicHolidays, type FreeDay } from './calendar';
import { markFor } from './write';

/** A customer as far as it is filled in. */
export interface Filled {
  readonly code: string;
  readonly name: string;
  readonly plan: string;
  readonly site: string;
  readonly zone: string;
  readonly currency: string;
  readonly card: string;
  readonly naming: string;
  readonly country: string;
  readonly region: string;
  readonly blockPrefix: number;
  /** The code of the customer that it is already; empty: it is new. */
  readonly known: string;
}

type Missing = Preview['missing'][number];

/** What would come of a customer as far as it is filled in; what is missing, or cannot be used, is told by field. */
export async function previewCustomer(
  db: Connection,
  scope: Scope,
  filled: Filled,
  now: number,
): Promise<Preview> {
  const missing: Missing[] = [];
  const miss = (field: string, says: string): void => void missing.push({ field, says });
  await codeFaults(db, filled, miss);
  if (filled.name.trim() === '') miss('name', 'who are they?');
  const block = filled.site === '' ? undefined : await freeSpace(db, filled.site, filled.blockPrefix);
  if (filled.site === '') miss('site', 'where are they at home?');
  if (filled.zone === '') miss('zone', 'when is it morning there?');
  else if (!isZone(filled.zone)) miss('zone', 'is not an IANA time zone');
  const monthly = await feeOf(db, filled, now, miss);
  const calendar = calendarFault(filled.country, filled.region);
  if (calendar) miss(calendar.field, calendar.says);
  const names = await namesOf(db, scope, filled, miss);
  return {
    mark: await markFor(db, filled.code),
    ...names,
    block: block ? writeBlock(block) : null,
    room: 2 ** (32 - filled.blockPrefix),
    holidays: calendar ? [] : comingDays(filled, now),
    monthly,
    missing,
  };
}

async function codeFaults(
  db: Connection,
  { code, known }: Filled,
  miss: (field: string, says: string) => void,
): Promise<void> {
  if (known !== '') return;
  if (code === '') return miss('code', 'two or more capital letters and digits');
  const { error } = customerCode.validate(code);
  if (error) return miss('code', error.details[0]?.message ?? 'cannot be used');
  if (await db.row('SELECT id FROM customer WHERE code = ?', [code])) miss('code', 'is a customer already');
}

/** What the plan costs a month; null where it is not sold in their currency, or not chosen yet. */
async function feeOf(
  db: Connection,
  { plan, currency, card, known }: Filled,
  now: number,
  miss: (field: string, says: string) => void,
): Promise<Money | null> {
  if (known !== '') return null;
  if (plan === '') miss('plan', 'what do they buy?');
  if (card === '') miss('card', 'at which prices?');
  const held = plan === '' ? undefined : newestAt(await planVersionsOf(db, plan), now);
  if (plan !== '' && !held) miss('plan', 'cannot be had now');
  if (!held || currency === '') return null;
  const fee = dearerBy([], held.terms.fees, currency);
  if (fee === null) miss('plan', `is not sold in ${currency}`);
  return fee;
}

const ROLES = ['desks', 'lab', 'own'] as const;

async function namesOf(
  db: Connection,
  scope: Scope,
  { code, naming, site, known }: Filled,
  miss: (field: string, says: string) => void,
): Promise<Pick<Preview, 'names' | 'nameFaults' | 'meets'>> {
  // What is one customer's own makes nobody else's names.
  const shared = (await listTemplates(db, scope)).flatMap(({ owner, document }) =>
    owner === '' && document ? [document.naming] : [],
  );
  const written = naming.trim() === '' ? (shared[0] ?? '') : naming;
  const rule = parseRule(written);
  if (!rule.ok) {
    if (naming.trim() !== '') miss('naming', rule.problem);
    return { names: [], nameFaults: [], meets: [] };
  }
  const context = (role: string, customer = code === '' ? 'ABC' : code) => ({
    customer,
    environment: 'office',
    site: site === '' ? 'A' : site,
    role,
  });
  const capacity = capacityOf(rule.value);
  const names = ROLES.map((role) => ({
    role,
    first: nameAt(rule.value, context(role), 1),
    last: nameAt(rule.value, context(role), capacity),
    left: capacity,
  }));
  const faults = names.flatMap(({ first }) => nameFaults(first).map((fault) => `${first} ${fault}`));
  const [fault] = faults;
  if (fault !== undefined && naming.trim() !== '') miss('naming', fault);
  const others = await rulesOfOthers(db, scope, known === '' ? code : known, shared);
  const meeting = others.filter(({ rules, customer }) =>
    rules.some((other) =>
      mayMeet(
        { rule: rule.value, context: context('desks') },
        { rule: other, context: context('desks', customer) },
      ),
    ),
  );
  return {
    names,
    nameFaults: [...new Set(faults)],
    meets: [...new Set(meeting.map(({ shown }) => shown))],
  };
}

/** The rules that make the names of each other customer: its own, or those of all templates. Who is out of reach is not named. */
async function rulesOfOthers(
  db: Connection,
  { customers }: Scope,
  but: string,
  templates: readonly string[],
): Promise<{ customer: string; shown: string; rules: NamingRule[] }[]> {
  const rows = await db.rows<{ id: string; code: string; details: string }>(
    "SELECT id, code, details FROM customer WHERE kind = 'customer' AND state <> 'retired' AND code <> ?",
    [but],
  );
  const readRules = (texts: readonly string[]): NamingRule[] =>
    texts.flatMap((text) => {
      const rule = parseRule(text);
      return rule.ok ? [rule.value] : [];
    });
  const shared = readRules([...new Set(templates)]);
  return rows.map(({ id, code, details }) => {
    const { naming } = readDetails(details);
    return {
      customer: code,
      shown: customers && !customers.has(id) ? 'another customer' : code,
      rules: naming === '' ? shared : readRules([naming]),
    };
  });
}

const SHOWN_DAYS = 12;

/** The next public holidays, from today on. */
function comingDays({ country, region }: Filled, now: number): FreeDay[] {
  const today = new Date(now).toISOString().slice(0, 10);
  const year = Number(today.slice(0, 4));
  return [...publicHolidays(country, region, year), ...publicHolidays(country, region, year + 1)]
    .filter(({ date }) => date >= today)
    .slice(0, SHOWN_DAYS);
}
