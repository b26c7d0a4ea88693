import { createHash } from 'node:crypto';
import pLimit from 'p-limit';
import {
  asksFirst,
  comparePeople,
  groupsInScope,
  peopleInScope,
  type Comparison,
  type DirectoryGroup,
  type DirectoryPerson,
  type DirectoryRead,
  type DirectoryScope,
  type KnownPerson,
} from '../../core/people';
import { mostOf } from '../../core/plans';
import { systemScope, type CustomerScope } from '../access';
import type { App } from '../app';
import { sql } from '../db';
import type { DirectoryReader } from '../directory';
import { OutsideError } from '../outside';
import { knownGroups, knownPeople, takeGroups, takePeople, type KnownGroup, type Still } from '../people';
import { planFactsOf } from '../plans';
import { Problem } from '../problem';
import { write } from '../write';
import { ChangedMeanwhile, forgetPages, readChanges, readIds, readKeeping } from './reading';
import { noteState, readerOf, scopeOf, stored, type Stored } from './stored';

/** A directory that was taken in once is looked at again so often. */
const REST_MS = 60_000;
/** After trouble, so long. */
const TROUBLE_MS = 30_000;
/** All of it is read once a day, whatever it says of its changes. */
const WHOLE_MS = 24 * 60 * 60_000;
/** So many whom a changed group named are asked for one by one; more, and all of it is read. */
const MOST_ASKED = 200;
const MOST_LINKS = 50;
/** So many are read at the same time: one that does not answer keeps few others waiting. */
const AT_ONCE = 4;

/** Somebody has to look before anything is taken in. */
class Stopped extends Error {
  constructor(
    message: string,
    readonly leaving: string | null = null,
  ) {
    super(message);
  }
}

/** Reads each directory that is due and takes in what changed. One that fails holds up none of the others. */
export async function followDirectories(app: App): Promise<void> {
  const due = await app.db.rows<{ id: string; code: string }>(
    sql`SELECT c.id, c.code FROM directory_link d JOIN customer c ON c.id = d.customer_id AND c.state <> 'retired'
        WHERE d.state IN ('asked','reading','taking') AND d.due_wall <= ${app.clock.wall()}
          OR d.state = 'linked' AND d.read_at IS NOT NULL AND d.due_wall <= ${app.clock.wall()}
        ORDER BY d.state = 'asked' DESC, d.due_wall LIMIT ${MOST_LINKS}`,
  );
  const at = pLimit(AT_ONCE);
  const outcomes = await Promise.allSettled(
    due.map(({ id, code }) => at(() => follow(app, systemScope({ id, code })))),
  );
  const failed = outcomes.find((one) => one.status === 'rejected');
  if (failed) throw failed.reason;
}

async function follow(app: App, scope: CustomerScope): Promise<void> {
  const row = await begin(app, scope);
  const rest = (ms: number): Promise<unknown> =>
    app.db.write(
      sql`UPDATE directory_link SET due_wall = ${app.clock.wall() + ms} WHERE customer_id = ${scope.customer.id}`,
    );
  try {
    await takeIn(app, scope, row);
    await rest(REST_MS);
  } catch (error) {
    if (error instanceof Overtaken) return;
    if (error instanceof Stopped || error instanceof Problem) {
      await stop(app, scope, error);
      return;
    }
    if (!(error instanceof OutsideError)) throw error;
    if (error instanceof ChangedMeanwhile) await forgetPages(app, scope);
    // What was asked for goes on being asked for.
    await noteState(app, scope, row.read_at === null ? 'asked' : 'linked', error.says);
    await rest(TROUBLE_MS);
  }
}

/** Takes the next number: whoever reads it under an earlier one, in a worker that was thought dead, writes nothing more. */
async function begin(app: App, scope: CustomerScope): Promise<Stored> {
  await app.db.write(
    sql`UPDATE directory_link SET round = round + 1 WHERE customer_id = ${scope.customer.id}`,
  );
  return stored(app.db, scope);
}

class Overtaken extends Error {}

const stillAt =
  ({ customer }: CustomerScope, round: number): Still =>
  async (tx) => {
    const row = await tx.row<{ round: number }>(
      sql`SELECT round FROM directory_link WHERE customer_id = ${customer.id} FOR UPDATE`,
    );
    if (row?.round !== round) throw new Overtaken('somebody else reads it by now');
  };

const stop = (app: App, scope: CustomerScope, why: Stopped | Problem): Promise<unknown> =>
  write(app, scope, [], async (tx) => {
    // What was found before anything was written says so itself; a plan that is passed by then leaves what came before.
    const passed = why instanceof Problem ? why.more.fields?.people : undefined;
    const says = passed === undefined ? why.message : `${passed}. Not everybody was taken in.`;
    const leaving = why instanceof Stopped ? why.leaving : null;
    await tx.write(
      sql`UPDATE directory_link SET state = 'stopped', says = ${says.slice(0, 400)}, leaving = ${leaving}
          WHERE customer_id = ${scope.customer.id}`,
    );
    await tx.record({
      action: 'stop reading directory',
      subject: scope.customer.code,
      after: { why: says },
      topic: 'people',
      id: scope.customer.code,
    });
  });

/** What a directory says now, whichever way that was found out. */
interface Now extends DirectoryRead {
  readonly since: string | undefined;
  /** Ids of the people of whom anything was told; undefined: it was read whole. */
  readonly told: ReadonlySet<string> | undefined;
  readonly totals: { readonly people: number; readonly groups: number };
}

async function takeIn(app: App, scope: CustomerScope, row: Stored): Promise<void> {
  const reader = readerOf(app, scope, row);
  const still = stillAt(scope, row.round);
  const chosen = scopeOf(row);
  const [people, groups] = await Promise.all([knownPeople(app.db, scope), knownGroups(app.db, scope)]);
  const known = { people, groups };
  const now = await readNow(app, scope, row, reader, known);
  const { inScope } = peopleInScope(now, chosen);
  const comparison = await confirmed(comparePeople(known.people, inScope, now.told), chosen, now, reader);
  await refuseTooMany(app, scope, row, known.people, comparison);
  const isChanged =
    comparison.added.length +
      comparison.changed.length +
      comparison.returned.length +
      comparison.left.length >
    0;
  if (isChanged) await noteState(app, scope, 'taking', 'what changed is taken in');
  await takePeople(app, scope, comparison, still);
  const within = groupsInScope(now.groups, chosen);
  const here = new Set(now.groups.map(({ id }) => id));
  const groupsMoved = await takeGroups(
    app,
    scope,
    still,
    known.groups,
    now.groups.map((group) => ({
      group: within.has(group.id) ? group : { ...group, people: [] },
      inScope: within.has(group.id),
    })),
    known.groups.filter(({ id }) => !here.has(id)).map(({ ours }) => ours),
  );
  await finish(app, scope, still, now, comparison, groupsMoved);
  await forgetPages(app, scope);
}

async function readNow(
  app: App,
  scope: CustomerScope,
  row: Stored,
  reader: DirectoryReader,
  known: { readonly people: readonly KnownPerson[]; readonly groups: readonly KnownGroup[] },
): Promise<Now> {
  const isDue = row.since === null || app.clock.wall() - row.whole_wall > WHOLE_MS;
  const changed = isDue ? undefined : await changedSince(reader, row, known);
  if (changed) return changed;
  const read = await readKeeping(app, scope, reader);
  return { ...read, told: undefined, totals: { people: read.people.length, groups: read.groups.length } };
}

/** What is known with what changed since; undefined: that cannot be found out without reading all of it. */
async function changedSince(
  reader: DirectoryReader,
  row: Stored,
  known: { readonly people: readonly KnownPerson[]; readonly groups: readonly KnownGroup[] },
): Promise<Now | undefined> {
  if (row.since === null) return undefined;
  const changes = await readChanges(reader, row.since);
  const people = new Map<string, DirectoryPerson>();
  for (const one of known.people)
    if (one.directoryId !== null && one.leftAt === null)
      people.set(one.directoryId, { ...one, id: one.directoryId, disabled: false });
  for (const one of changes.people) people.set(one.id, one);
  const groups = new Map<string, DirectoryGroup>(known.groups.map((one) => [one.id, one]));
  for (const one of changes.groups) groups.set(one.id, one);
  const [{ total: peopleNow }, { total: groupsNow }] = await Promise.all([
    reader.ids('people', { from: 0 }),
    reader.ids('groups', { from: 0 }),
  ]);
  // Only who came and who changed is told: that somebody is gone shows in how many there are.
  const came = changes.people.filter(({ id }) => !known.people.some((one) => one.directoryId === id)).length;
  if (peopleNow !== row.total_people + came || came > 0)
    for (const gone of missing(people.keys(), await readIds(reader, 'people'))) people.delete(gone);
  const newGroups = changes.groups.filter(({ id }) => !known.groups.some((one) => one.id === id)).length;
  if (groupsNow !== row.total_groups + newGroups)
    for (const gone of missing(groups.keys(), await readIds(reader, 'groups'))) groups.delete(gone);
  // Who is in a group that was outside until now was never read: that comes with all of it.
  const within = groupsInScope([...groups.values()], scopeOf(row));
  const isTold = new Set(changes.groups.map(({ id }) => id));
  if (known.groups.some(({ id, inScope }) => !inScope && within.has(id) && !isTold.has(id))) return undefined;
  // A group that was changed may name somebody who was outside before, and was not changed themselves.
  const named = new Set(changes.groups.flatMap((one) => one.people).filter((id) => !people.has(id)));
  if (named.size > MOST_ASKED) return undefined;
  for (const id of named) {
    const one = await reader.person(id);
    if (one) people.set(id, one);
  }
  return {
    people: [...people.values()],
    groups: [...groups.values()],
    since: changes.since,
    told: new Set([...changes.people.map(({ id }) => id), ...named]),
    totals: { people: peopleNow, groups: groupsNow },
  };
}

const missing = (ids: Iterable<string>, there: ReadonlySet<string>): string[] =>
  [...ids].filter((id) => !there.has(id));

/** So many who seem to have left are asked for by name, before they are believed to be gone. */
const MOST_CONFIRMED = 25;

/** Nobody is gone for not standing in a list: the directory is asked for those who are missing in it. */
async function confirmed(
  comparison: Comparison,
  scope: DirectoryScope,
  now: Now,
  reader: DirectoryReader,
): Promise<Comparison> {
  const listed = new Set(now.people.map(({ id }) => id));
  const unlisted = comparison.left.filter(
    ({ directoryId }) => directoryId !== null && !listed.has(directoryId),
  );
  if (unlisted.length === 0 || unlisted.length > MOST_CONFIRMED) return comparison;
  const still = new Set<string>();
  for (const one of unlisted) {
    const person = await reader.person(one.directoryId ?? '');
    if (!person) continue;
    const read = { people: [person], groups: now.groups };
    if (peopleInScope(read, scope).inScope.length > 0) still.add(one.id);
  }
  return { ...comparison, left: comparison.left.filter(({ id }) => !still.has(id)) };
}

/** What was agreed to is these people's leaving, and nobody else's. */
const fingerprintOf = (left: readonly KnownPerson[]): string =>
  createHash('sha256')
    .update(
      left
        .map(({ id }) => id)
        .sort()
        .join(),
    )
    .digest('hex');

async function refuseTooMany(
  app: App,
  scope: CustomerScope,
  row: Stored,
  known: readonly KnownPerson[],
  { left, added, returned }: Comparison,
): Promise<void> {
  const here = known.filter((one) => one.leftAt === null);
  const fromIt = here.filter((one) => one.directoryId !== null).length;
  if (asksFirst({ leaving: left.length, here: fromIt }) && fingerprintOf(left) !== row.agreed) {
    const names = left.slice(0, 3).map(({ account }) => account);
    throw new Stopped(
      `${left.length} of ${fromIt} people would leave, ${names.join(', ')} and others among them. Nothing was taken in.`,
      fingerprintOf(left),
    );
  }
  const at = app.clock.now();
  const { plan } = await planFactsOf(app.db, scope, at);
  const most = mostOf(plan, 'people', at);
  const would = here.length - left.length + added.length + returned.length;
  if (most !== null && would > most && would > here.length)
    throw new Stopped(`The plan allows ${most} people, and ${would} would be here. Nothing was taken in.`);
}

const finish = (
  app: App,
  scope: CustomerScope,
  still: Still,
  now: Now,
  { added, changed, returned, left, same, unfit }: Comparison,
  groups: number,
): Promise<void> =>
  write(app, scope, [], async (tx) => {
    await still(tx);
    const { id, code } = scope.customer;
    const at = app.clock.now();
    const here = same + added.length + changed.length + returned.length;
    await tx.write(
      sql`UPDATE directory_link SET state = 'linked', says = ${unfit.length === 0 ? '' : `${unfit.length} cannot be taken in`},
            leaving = NULL, agreed = NULL, read_at = ${at}, people = ${here}, since = ${now.since ?? null},
            total_people = ${now.totals.people}, total_groups = ${now.totals.groups},
            whole_wall = IF(${now.told === undefined}, ${app.clock.wall()}, whole_wall)
          WHERE customer_id = ${id}`,
    );
    const moved = {
      added: added.length,
      changed: changed.length,
      returned: returned.length,
      left: left.length,
    };
    if (Object.values(moved).some((count) => count > 0) || groups > 0)
      await tx.record({
        action: 'read directory',
        subject: `${code} people`,
        after: {
          ...moved,
          groups,
          ...(left.length === 0 ? {} : { whoLeft: left.slice(0, 20).map((one) => one.account) }),
        },
        topic: 'people',
        id: code,
      });
    else await tx.touch('people', code);
  });
