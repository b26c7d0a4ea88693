import { createHash } from 'node:crypto';
import { asksFirst, type Comparison, type KnownPerson } from '../../core/people';
import { mostOf } from '../../core/plans';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { sql } from '../db';
import { takeGroups, takePeople, type Still } from '../people';
import { planFactsOf } from '../plans';
import { write } from '../write';
import { comparedAll } from './all';
import { comparedFew } from './few';
import type { Compared } from './compared';
import { readTold, forgetPages } from './reading';
import { noteState, readerOf, unfitOf, type Stored } from './stored';

/** All of it is read once a day, whatever it says of its changes. */
const WHOLE_MS = 24 * 60 * 60_000;
/** So many of those who cannot be taken in are named; there may be more. */
const MOST_UNFIT = 200;

/** Somebody has to look before anything is taken in. */
export class Stopped extends Error {
  constructor(
    message: string,
    readonly leaving: string | null = null,
  ) {
    super(message);
  }
}

/**
 * Reads a directory, by what changed in it where that is enough, and takes in what is otherwise.
 * @throws Stopped, OutsideError, Problem
 */
export async function takeIn(app: App, scope: CustomerScope, row: Stored, still: Still): Promise<void> {
  const reader = readerOf(app, scope, row);
  const isDue = app.clock.wall() - row.whole_wall > WHOLE_MS;
  const told = isDue || row.since === null ? undefined : await readTold(reader, row.since);
  const compared =
    (told && (await comparedFew(app.db, scope, row, reader, told))) ??
    (await comparedAll(app, scope, row, reader, told));
  await refuseTooMany(app, scope, row, compared);
  const { people, groups } = compared;
  if (movesOf(people).some(([, count]) => count > 0))
    await noteState(app, scope, 'taking', 'what changed is taken in');
  await takePeople(app, scope, people, still);
  const groupsMoved = await takeGroups(app, scope, still, groups.known, groups.now, groups.gone);
  await finish(app, scope, row, still, compared, groupsMoved);
  await forgetPages(app, scope);
}

const movesOf = ({ added, changed, returned, left }: Comparison): [name: string, count: number][] =>
  Object.entries({ added, changed, returned, left }).map(([name, some]) => [name, some.length]);

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
  { people: { left, added, returned }, before }: Compared,
): Promise<void> {
  if (asksFirst({ leaving: left.length, here: before.fromIt }) && fingerprintOf(left) !== row.agreed) {
    const names = left.slice(0, 3).map(({ account }) => account);
    throw new Stopped(
      `${left.length} of ${before.fromIt} people would leave, ${names.join(', ')} and others among them. Nothing was taken in.`,
      fingerprintOf(left),
    );
  }
  const at = app.clock.now();
  const { plan } = await planFactsOf(app.db, scope, at);
  const most = mostOf(plan, 'people', at);
  const would = before.here - left.length + added.length + returned.length;
  if (most !== null && would > most && would > before.here)
    throw new Stopped(`The plan allows ${most} people, and ${would} would be here. Nothing was taken in.`);
}

/** Who cannot be taken in, by their ids in the directory: of whom nothing was told, as it was said before. */
function unfitNow(row: Stored, { people, told, there }: Compared): Readonly<Record<string, string>> {
  const now = people.unfit.map(({ id, account, reason }) => [id, `${account}: ${reason}`] as const);
  const left = new Set(people.left.map(({ directoryId }) => directoryId));
  const before = Object.entries(told ? unfitOf(row) : {}).filter(
    ([id]) => !told?.has(id) && !left.has(id) && (there?.has(id) ?? true),
  );
  return Object.fromEntries([...before, ...now].slice(0, MOST_UNFIT));
}

const finish = (
  app: App,
  scope: CustomerScope,
  row: Stored,
  still: Still,
  compared: Compared,
  groups: number,
): Promise<void> =>
  write(app, scope, [], async (tx) => {
    await still(tx);
    const { id, code } = scope.customer;
    const { people, told, since, totals } = compared;
    const unfit = unfitNow(row, compared);
    const count = Object.keys(unfit).length;
    const at = app.clock.now();
    const moved = movesOf(people);
    const isMoved = moved.some(([, of]) => of > 0) || groups > 0;
    const says = `${count}${count === MOST_UNFIT ? ' or more' : ''} cannot be taken in`;
    await tx.write(
      sql`UPDATE directory_link SET state = 'linked', says = ${count === 0 ? '' : says}, unfit = ${JSON.stringify(unfit)},
            leaving = NULL, agreed = NULL, read_at = ${at}, moved_at = IF(${isMoved}, ${at}, moved_at), since = ${since ?? null},
            people = (SELECT COUNT(*) FROM person WHERE customer_id = ${id} AND left_at IS NULL AND directory_id IS NOT NULL),
            total_people = ${totals.people}, total_groups = ${totals.groups},
            whole_wall = IF(${told === undefined}, ${app.clock.wall()}, whole_wall)
          WHERE customer_id = ${id}`,
    );
    if (isMoved)
      await tx.record({
        action: 'read directory',
        subject: `${code} people`,
        after: {
          ...Object.fromEntries(moved),
          groups,
          ...(people.left.length === 0
            ? {}
            : { whoLeft: people.left.slice(0, 20).map((one) => one.account) }),
        },
        topic: 'people',
        id: code,
      });
    else await tx.touch('people', code);
  });
