import Joi from 'joi';
import type { Facts } from '../facts';
import { patchHost } from '../intent';
import type { FilledInput, GivenPool, Grant, HostIntent, Intent, PoolIntent } from '../intent';
import { defineChange, warns, type Check } from '../planning';
import { ok, refuse } from '../result';
import { needsWith, seatsOn } from '../sizing';
import { fill, GIVEN_TERMS, isAlike } from '../templates';
import { fitsRule, type PoolSpec } from '../terms';
import { nameOf } from './common';
import { filledInputs, givenOf, poolOf, sizePool, strangeGroups } from './provision';
import { isHost } from '../resources';

interface FollowTemplate {
  /** What stays as it is, though the template gives it otherwise: `desks.diskGiB`, `desks`, `naming`. */
  readonly keep?: readonly string[];
  /** What is filled in otherwise than it was. */
  readonly inputs?: readonly FilledInput[];
}

/** Brings an environment to its template's newest revision, or back to it; what is to stay otherwise is named. */
export const followTemplate = defineChange<FollowTemplate>({
  kind: 'follow-template',
  subject: 'environment',
  of: 'customers',
  verb: 'Follow the template',
  input: Joi.object<FollowTemplate>({
    keep: Joi.array()
      .items(Joi.string().max(60))
      .max(1_000)
      .unique()
      .description('What stays as it is, like `desks.diskGiB`'),
    inputs: filledInputs,
  }),
  right: 'build',
  confirm: 'press',
  touches: ['size', 'diskGiB', 'ready', 'new host', 'host gone'],
  destroys: true,
  undo: 'by difference',
  needs: ['template', 'grantees'],
  title: (_input, facts) => `Bring ${nameOf(facts)} to revision ${facts.template?.revision ?? 0}`,
  edit: (intent, { keep = [], inputs = [] }, facts) => {
    if (intent === null) return refuse({ environment: 'is not there' });
    const { template } = facts;
    if (intent.template === null || template?.code !== intent.template.code)
      return refuse({ environment: 'came from no template' });
    const filled = inputsNow(intent.template.inputs, inputs, template.document.inputs);
    const spec = fill(template.document, { people: intent.people, inputs: filled });
    if (!spec.ok)
      return refuse(
        Object.fromEntries(Object.entries(spec.problem).map(([key, says]) => [`inputs.${key}`, says])),
      );
    const nobody = strangeGroups(spec.value, facts);
    if (nobody !== undefined) return refuse({ inputs: `names what is no group of ${facts.customer.code}` });
    const isKept = (key: string): boolean => keep.includes(key);
    const fresh = spec.value.pools.map((one) => newPool(one, intent, facts));
    const given = fresh.map((pool) => givenOf(pool));
    const naming = facts.customer.naming === '' ? spec.value.naming : facts.customer.naming;
    const pools = [
      ...fresh.flatMap((pool) => {
        const before = intent.pools.find(({ role }) => role === pool.role);
        if (before) return [followed(before, pool, isKept, facts)];
        return isKept(pool.role) ? [] : [pool];
      }),
      ...intent.pools.filter(({ role }) => isKept(role) && !fresh.some((pool) => pool.role === role)),
    ];
    if (pools.length === 0) return refuse({ keep: 'leaves no pool' });
    const owned = intent.pools.find(
      ({ role, hosts }) =>
        !pools.some((one) => one.role === role) && hosts.some(({ person }) => person !== undefined),
    );
    if (owned)
      return refuse({
        keep: `the template has no pool ${owned.role} any more, and people have desktops there: keep ${owned.role}, or end those first`,
      });
    const shrunk = pools.find(({ role, ownDiskGiB }) =>
      intent.pools.some((before) => before.role === role && before.ownDiskGiB > ownDiskGiB),
    );
    if (shrunk)
      return refuse({
        keep: `disks of people of ${shrunk.role} would shrink to ${shrunk.ownDiskGiB} GiB: keep ${shrunk.role}.ownDiskGiB`,
      });
    return ok({
      ...intent,
      template: {
        code: template.code,
        revision: template.revision,
        inputs: filled,
        gave: { naming, tags: spec.value.tags, pools: given },
      },
      naming: isKept('naming') ? intent.naming : naming,
      tags: isKept('tags') ? intent.tags : spec.value.tags,
      pools,
    });
  },
  policy: (_input, facts) => {
    const hosts = facts.known.filter((one) => one.wanted && isHost(one)).length;
    return {
      atATime: facts.template?.document.atATime ?? 5,
      failureLimit: facts.template?.document.failureLimit ?? 2,
      waves: Math.max(1, Math.ceil(hosts / 2)),
      drain: {
        minutes: 15,
        message: 'This desktop is about to change. Please save, sign out and sign in again.',
      },
    };
  },
  checks: (edited, _input, facts) => [...smaller(edited, facts)],
});

/** Of what was filled in before, what is still asked; then what is filled in now; else as usual. */
const inputsNow = (
  before: readonly FilledInput[],
  now: readonly FilledInput[],
  asked: readonly { readonly key: string; readonly usual: FilledInput['value'] }[],
): FilledInput[] => [
  ...asked.map(({ key, usual }) => ({
    key,
    value: now.find((one) => one.key === key)?.value ?? before.find((one) => one.key === key)?.value ?? usual,
  })),
  // What nobody asks for is refused where it was filled in.
  ...now.filter(({ key }) => !asked.some((one) => one.key === key)),
];

/**
 * What the template gives to a pool. A size that was chosen once stays chosen, as long as the work is the same and
 * the rule allows it: rates change, and nobody is resized by that.
 */
function newPool(spec: PoolSpec, intent: Intent, facts: Facts): PoolIntent {
  const before = intent.template?.gave.pools.find(({ role }) => role === spec.role);
  const size = before && facts.site.sizes.find(({ key }) => key === before.size);
  const stays = before?.profile === spec.profile && size !== undefined && fitsRule(spec.size, size);
  return poolOf(sizePool(spec, 1, stays ? size.key : undefined, facts), facts);
}

function followed(
  before: PoolIntent,
  given: PoolIntent,
  isKept: (key: string) => boolean,
  facts: Facts,
): PoolIntent {
  const now = GIVEN_TERMS.filter(
    (term) => !isAlike(term.of(before), term.of(given)) && !isKept(`${before.role}.${term.key}`),
  ).reduce<PoolIntent>((pool, term) => term.from(pool, given satisfies GivenPool), before);
  const hosts = isKept(`${before.role}.hosts`) ? now.hosts : now.hosts.map(alike);
  const grants = grantsWith(before, now.items, given);
  return reseated(
    { ...now, grants, hosts: isAlike(now.image, before.image) ? hosts : hosts.map(ofImage) },
    facts,
  );
}

/**
 * To whom it is granted with the items that it has now. What stays is granted as it is. What is new and for a group is that
 * group's; what is new and for nobody in particular is everyone's, where all that the template gives to everyone was so.
 */
function grantsWith(
  before: PoolIntent,
  items: PoolIntent['items'],
  given: Pick<PoolIntent, 'grants'>,
): readonly Grant[] {
  const has = (all: PoolIntent['items'], item: string): boolean => all.some(({ name }) => name === item);
  const isForGroup = (item: string): boolean =>
    given.grants.some((one) => one.item === item && one.to === 'group');
  const wasOpen = before.items
    .filter(({ name }) => !isForGroup(name))
    .every(({ name }) => before.grants.some((one) => one.item === name && one.to === 'everyone'));
  return [
    ...before.grants.filter(({ item }) => has(items, item)),
    ...given.grants.filter(
      ({ item, to }) => has(items, item) && !has(before.items, item) && (to === 'group' || wasOpen),
    ),
  ];
}

const alike = (host: HostIntent): HostIntent => patchHost(host, { size: undefined, diskGiB: undefined });
/** Made anew they are made of their image, whatever they came of. */
const ofImage = (host: HostIntent): HostIntent => patchHost(host, { ready: undefined });

/** The seats follow from size, work and the most that were set. */
function reseated(pool: PoolIntent, { site, customer }: Facts): PoolIntent {
  const size = site.sizes.find(({ key }) => key === pool.size);
  const seats = size ? seatsOn(size, needsWith(customer.needs ?? [])[pool.profile], pool.mostSeats).seats : 0;
  const ceiling = Math.max(pool.ceiling, pool.hosts.length);
  return { ...pool, ceiling, seats: Math.max(1, seats) };
}

/** What of it there is less room for than people need. */
function smaller(edited: Intent | null, facts: Facts): Check[] {
  return (edited?.pools ?? []).flatMap((pool) => {
    const before = facts.environment?.intent.pools.find(({ role }) => role === pool.role);
    if (
      !before ||
      pool.hosts.length * pool.seats >= Math.min(pool.people, before.hosts.length * before.seats)
    )
      return [];
    return [
      warns(
        `seats ${pool.role}`,
        'Seats',
        `${pool.hosts.length * pool.seats} in ${pool.role} for ${pool.people} people`,
        'Add hosts, unless never all come at once.',
      ),
    ];
  });
}
