import { DateTime } from 'luxon';
import { wordNeeded } from '../approval';
import { certificateReminder } from '../certificates';
import type { Facts, HostFacts } from '../facts';
import type { Attributes, Intent } from '../intent';
import { copySeconds } from '../images';
import { nameAt, namesLeft, parseRule } from '../naming';
import { addAmounts, limitsPassed, mostOf, takenBy, type PlanFacts } from '../plans';
import type { MeterNeed } from '../rating';
import { writeSize } from '../machines';
import { isGoing } from '../status';
import { windowAt, writeWindow } from '../calendar';
import { plain, type Money } from '../money';
import type { OverrideEdit } from '../overrides';
import { APPROVAL, blocks, passes, seenIn, warns, type Check } from './check';
import { hostKey, type Policy } from '../resources';
import type { Change } from './change';
import { namesTaken, type Findings } from './desk';
import type { PlannedTask } from './tasks';

/** What is checked of a change of hosts alone. */
export interface HostPlan {
  readonly change: Pick<Change, 'kind' | 'verb' | 'partOf'>;
  readonly monthly: Money;
  readonly seconds: number;
  readonly facts: HostFacts;
  readonly overrides: OverrideEdit;
  /** Whether something else is wanted of a host from then on, also where nothing is to be done for it now. */
  readonly isOtherwise: boolean;
  readonly tasks: readonly PlannedTask[];
  readonly absent: readonly string[];
  readonly policy: Policy;
}

export interface Plan extends HostPlan {
  readonly facts: Facts;
  readonly before: Intent | null;
  readonly after: Intent | null;
  readonly findings: Findings;
  readonly unpriced: readonly MeterNeed[];
}

/** The checks of a change of hosts alone: nothing is built by it, and nothing outside was asked. */
export const hostChecks = (plan: HostPlan): Check[] =>
  [nothingToDo(plan), signedInCheck(plan), absentCheck(plan), windowCheck(plan), approvalCheck(plan)].flatMap(
    (check) => check ?? [],
  );

/** The checks that every plan has, those that have nothing to say left out, in the order in which one would fix them. */
export function commonChecks(plan: Plan): Check[] {
  return [
    nothingCheck(plan),
    signedInCheck(plan),
    customerCheck(plan),
    planCheck(plan),
    absentCheck(plan),
    namesCheck(plan),
    addressCheck(plan),
    shelfCheck(plan),
    imageCheck(plan),
    licencesCheck(plan),
    capacityCheck(plan),
    credentialsCheck(plan),
    directoryCheck(plan),
    routeCheck(plan),
    certificateCheck(plan),
    joinedCheck(plan),
    ratesCheck(plan),
    windowCheck(plan),
    approvalCheck(plan),
  ].flatMap((check) => check ?? []);
}

const making = (plan: Plan): readonly PlannedTask[] =>
  plan.tasks.filter(({ task }) => task.do === 'make' || task.do === 'replace');

const nothingCheck = (plan: Plan): Check | undefined =>
  JSON.stringify(plan.before) === JSON.stringify(plan.after) ? nothingToDo(plan) : undefined;

function nothingToDo({ tasks, overrides: { set, lift }, isOtherwise }: HostPlan): Check | undefined {
  if (isOtherwise || tasks.length + set.length + lift.length > 0) return undefined;
  return blocks('nothing', 'Nothing to do', 'it is as wanted already', 'Choose something else.');
}

/** Whose sessions it ends, and how long they get. */
function signedInCheck({ tasks, policy: { drain } }: HostPlan): Check | undefined {
  const ended = tasks.filter(
    ({ task }) => task.do !== 'change' || task.differences.some((one) => one.disturbs),
  );
  const people = ended.reduce((all, { task }) => all + task.people, 0);
  if (people === 0) return undefined;
  const title = 'Signed in';
  const who = people === 1 ? '1 person is signed in' : `${people} people are signed in`;
  if (drain && drain.minutes > 0)
    return passes('signed-in', title, `${who}; they get ${drain.minutes} minutes`);
  return warns(
    'signed-in',
    title,
    `${who}; ${people === 1 ? 'the session ends' : 'their sessions end'} at once`,
    'Drain first, or do it when nobody is there.',
  );
}

function customerCheck(plan: Plan): Check | undefined {
  const title = 'Customer';
  const { state, code } = plan.facts.customer;
  if (making(plan).length === 0) return undefined;
  if (isGoing(state))
    return blocks('customer', title, `${code} is ${state}`, 'Nothing new is built for a customer who goes.');
  if (state === 'paused')
    return warns('customer', title, `${code} is paused`, 'Ask whether they want to pay for this now.');
  return passes('customer', title, `${code} is ${state}`);
}

function planCheck({ facts, before, after }: Plan): Check | undefined {
  if (after === null) return undefined;
  const title = 'Plan limits';
  const { plan, takes } = facts.customer;
  const { sizes } = facts.site;
  const [were, are] = [takenBy(before, sizes), takenBy(after, sizes)];
  // Its people are the environment's own: those of a customer's environments are mostly the same.
  const total = { ...addAmounts(addAmounts(takes, were, -1), are), people: are.people };
  const passed = limitsPassed(total, plan, facts.now);
  const grown = passed.filter(({ limit }) => are[limit] > were[limit]);
  const barred = barredBy(plan, facts.site, before, after);
  if (grown.length > 0)
    return blocks(
      'plan',
      title,
      grown.map(({ says }) => says).join('; '),
      'Take less, choose a larger plan, or have a lead raise the limit for a while.',
    );
  if (barred !== undefined) return blocks('plan', title, ...barred);
  if (are.hosts === were.hosts) return undefined;
  const still = passed.find(({ limit }) => limit === 'hosts');
  if (still) return warns('plan', title, `still ${still.says}`, 'Take more away, or choose a larger plan.');
  const most = mostOf(plan, 'hosts', facts.now);
  return passes(
    'plan',
    title,
    most === null
      ? `${total.hosts} hosts in plan ${plan.name}`
      : `${total.hosts} of ${most} hosts in plan ${plan.name}`,
  );
}

/** A site or a size that the plan has not, where it was not there before: what is wrong, and what to do. */
function barredBy(
  plan: PlanFacts,
  site: Facts['site'],
  before: Intent | null,
  after: Intent,
): [says: string, action: string] | undefined {
  if (before === null && plan.sites.length > 0 && !plan.sites.includes(after.site))
    return [`plan ${plan.name} does not reach ${site.name}`, 'Choose another site, or a larger plan.'];
  const sizesOf = ({ pools }: Intent): string[] =>
    pools.flatMap((pool) => [pool.size, ...pool.hosts.flatMap((host) => host.size ?? [])]);
  const had = new Set(before ? sizesOf(before) : []);
  const barred = sizesOf(after).find(
    (size) => !had.has(size) && plan.sizes.length > 0 && !plan.sizes.includes(size),
  );
  if (barred === undefined || barred === '') return undefined;
  const size = site.sizes.find((one) => one.key === barred);
  return [
    `plan ${plan.name} has no ${size ? writeSize(size) : barred}`,
    'Choose another size, or a larger plan.',
  ];
}

function absentCheck({ absent }: HostPlan): Check | undefined {
  if (absent.length === 0) return undefined;
  return warns(
    'absent',
    'Not there',
    `${absent.join(', ')}: nothing is done to ${absent.length === 1 ? 'it' : 'them'}`,
    'Mend the difference to have it made.',
  );
}

function namesCheck({ facts, findings, after }: Plan): Check | undefined {
  const title = 'Computer names';
  const [fault] = findings.nameFaults;
  if (fault !== undefined) return blocks('names', title, fault, 'Mend the naming rule in the template.');
  if (findings.namesMissing > 0)
    return blocks(
      'names',
      title,
      `${after?.naming ?? 'the rule'} runs out: ${findings.namesMissing} hosts would have no name`,
      'Widen the counter in the naming rule.',
    );
  if (findings.firstName === undefined) return undefined;
  const short = namesShort(facts, after);
  if (short > 0)
    return warns(
      'names',
      title,
      `${findings.firstName} and on; at their ceiling the pools would be ${short} names short`,
      'Widen the counter in the naming rule before they grow.',
    );
  const there = facts.site.namesThere && [...facts.site.namesThere, ...(facts.site.namesOfNobody ?? [])];
  const free = passes('names', title, `${findings.firstName} and on, legal and free`);
  return there
    ? seenIn(free, `held against ${there.length} names in the directory and at the provider`, facts.now)
    : free;
}

/** How many names the rule lacks when every pool has grown to its ceiling. Pools whose names are alike share the counter. */
function namesShort(facts: Facts, after: Intent | null): number {
  const { customer, site } = facts;
  const rule = after && parseRule(after.naming);
  if (!after || rule?.ok !== true) return 0;
  const has = new Set(facts.known.filter(({ wanted }) => wanted).map(({ key }) => key));
  const groups = new Map<string, { left: number; more: number }>();
  for (const pool of after.pools) {
    const context = { customer: customer.code, environment: after.name, site: site.code, role: pool.role };
    const key = nameAt(rule.value, context, 1);
    const group = groups.get(key) ?? {
      left: namesLeft(rule.value, context, namesTaken(facts)),
      more: 0,
    };
    const named = pool.hosts.filter(({ slot }) => has.has(hostKey(pool.role, slot))).length;
    group.more += Math.max(pool.ceiling, pool.hosts.length) - named;
    groups.set(key, group);
  }
  return Math.max(0, ...[...groups.values()].map(({ left, more }) => more - left));
}

function addressCheck({ findings }: Plan): Check | undefined {
  const title = 'Addresses';
  const [fault] = findings.addressFaults;
  if (fault !== undefined)
    return blocks('addresses', title, fault, 'Give the customer a larger block at this site.');
  if (findings.names === 0) return undefined;
  return passes(
    'addresses',
    title,
    findings.room > 0
      ? `room for ${findings.room} hosts`
      : findings.names === 1
        ? 'one is free'
        : `${findings.names} are free`,
  );
}

/** What is ready already: the first ones are in within a minute. */
function shelfCheck(plan: Plan): Check | undefined {
  const hosts = making(plan).filter(({ kind }) => kind.carriesSessions === true);
  // What is put on the shelf itself has yet to be brought up.
  const ready = hosts.filter(
    (one) => isReady(one) && 'wanted' in one.task && one.task.wanted.attributes.realm !== '',
  ).length;
  if (ready === 0) return undefined;
  const says = `${ready} of ${hosts.length} ${ready === 1 ? 'is' : 'are'} ready and only handed over`;
  return passes('shelf', 'Ready shelf', says);
}

/** It stands already, and takes no more room than it did. */
const isReady = ({ task }: PlannedTask): boolean =>
  task.do === 'make' && typeof task.wanted.attributes.from === 'string';

function imageCheck(plan: Plan): Check | undefined {
  const title = 'Image';
  const { site } = plan.facts;
  const wanted = new Map(
    making(plan).flatMap(({ task }) => {
      if (!('wanted' in task) || typeof task.wanted.attributes.image !== 'string') return [];
      return [[task.wanted.attributes.image, Number(task.wanted.attributes.diskGiB)] as const];
    }),
  );
  for (const [name, diskGiB] of wanted) {
    const image = site.images.find((one) => one.name === name);
    if (!image) {
      const own = site.imagesElsewhere?.find((one) => one.name === name);
      const isLine = [...site.images, ...(site.imagesElsewhere ?? [])].some(({ of }) => of?.line === name);
      if (isLine)
        return blocks(
          'image',
          title,
          `${name} has no current version`,
          'Make one of its versions current, or choose another image.',
        );
      const says = `${name} is not at ${site.name}`;
      if (!own) return blocks('image', title, says, 'Choose another image, or another site.');
      return { ...blocks('image', title, says, copySays(own.diskGiB)), of: `${name} ${site.code}` };
    }
    if (diskGiB < image.diskGiB)
      return blocks(
        'image',
        title,
        `${name} needs ${image.diskGiB} GiB, the disk has ${diskGiB} GiB`,
        'Take a larger disk.',
      );
  }
  if (wanted.size === 0) return undefined;
  return passes('image', title, `${[...wanted.keys()].join(', ')} at ${site.name}`);
}

/** Programs on the images that need a licence for each person, and for how many people that is more than before. */
function licencesCheck({ before, after, facts }: Plan): Check | undefined {
  const [were, are] = [licencesOf(before, facts), licencesOf(after, facts)];
  const more = [...are].flatMap(([program, people]) => {
    const added = people - (were.get(program) ?? 0);
    return added > 0 ? [`${program} for ${added === 1 ? '1 person' : `${added} people`}`] : [];
  });
  if (more.length === 0) return undefined;
  return passes('licences', 'Licences to have', more.join(', '));
}

function licencesOf(intent: Intent | null, { site }: Facts): Map<string, number> {
  const counted = new Map<string, number>();
  for (const { image, people } of intent?.pools ?? [])
    for (const program of site.images.find(({ name }) => name === image)?.of?.licences ?? [])
      counted.set(program, (counted.get(program) ?? 0) + people);
  return counted;
}

/** That a copy is what is missing, and how long that takes. */
const copySays = (gib: number): string =>
  `Copy it there first: about ${Math.max(1, Math.round(copySeconds(gib) / 60))} min.`;

function capacityCheck(plan: Plan): Check | undefined {
  const { findings, facts } = plan;
  const title = facts.site.kind === 'own nodes' ? 'Node capacity' : 'Quota';
  if (facts.site.quota) return quotaCheck(plan, title);
  const [left] = findings.left;
  if (left)
    return blocks(
      'capacity',
      title,
      `${findings.left.length} of ${findings.left.length + findings.placed.length} hosts fit nowhere: ${left.why}`,
      'Choose another site or free a node.',
    );
  if (findings.placed.length === 0) return undefined;
  const nodes = new Set(findings.placed.map((host) => host.node)).size;
  const fit = passes('capacity', title, `all fit, on ${nodes} ${nodes === 1 ? 'node' : 'nodes'}`);
  return seenIn(fit, zonesSay(findings, facts), facts.now);
}

/** `zone a: 3 hosts on 2 nodes, 120 GiB of memory left there`, zone by zone. */
function zonesSay({ placed }: Plan['findings'], { site }: Facts): string {
  const zoneOf = new Map(site.nodes.map(({ id, zone }) => [id, zone]));
  const zones = [
    ...new Set(site.nodes.filter(({ isDown }) => isDown !== true).map(({ zone }) => zone)),
  ].sort();
  return zones
    .map((zone) => {
      const own = placed.filter(({ node }) => zoneOf.get(node) === zone);
      const nodes = site.nodes.filter((node) => node.zone === zone && node.isDown !== true);
      const memory = nodes.reduce((sum, { memoryGiB }) => sum + memoryGiB, 0);
      const taken = [...site.present, ...own]
        .filter(({ node }) => zoneOf.get(node) === zone)
        .reduce((sum, { memoryGiB }) => sum + memoryGiB, 0);
      return `zone ${zone}: ${own.length}, ${Math.max(0, memory - taken)} GiB of memory left`;
    })
    .join('; ');
}

function quotaCheck({ facts, tasks }: Plan, title: string): Check | undefined {
  const { quota, sizes } = facts.site;
  if (!quota) return undefined;
  const known = new Map(facts.known.map((one) => [one.key, one]));
  const needed = tasks.flatMap((planned): { family: string | undefined; vcpu: number }[] => {
    const { key, kind, task } = planned;
    if (!('wanted' in task) || isReady(planned)) return [];
    const familyOf = ({ size }: Attributes): string | undefined =>
      sizes.find((one) => one.key === size)?.family;
    const { attributes } = task.wanted;
    const before = known.get(key);
    const vcpu = kind.room?.(attributes, sizes).vcpu ?? 0;
    if (before?.wanted !== true) return [{ family: familyOf(attributes), vcpu }];
    const had = kind.room?.(before.attributes, sizes).vcpu ?? 0;
    const [now, was] = [familyOf(attributes), familyOf(before.attributes)];
    return now === was
      ? [{ family: now, vcpu: Math.max(0, vcpu - had) }]
      : [
          { family: now, vcpu },
          { family: was, vcpu: -had },
        ];
  });
  const sum = (family?: string): number =>
    needed
      .filter((one) => family === undefined || one.family === family)
      .reduce((total, { vcpu }) => total + vcpu, 0);
  const limits = [
    { of: '', needed: Math.max(0, sum()), vcpu: quota.vcpu, free: quota.vcpu - quota.vcpuUsed },
    ...(quota.families ?? []).map(({ family, vcpu, vcpuUsed }) => ({
      of: ` of ${family}`,
      needed: Math.max(0, sum(family)),
      vcpu,
      free: vcpu - vcpuUsed,
    })),
  ].filter((one) => one.needed > 0);
  const [first] = limits;
  if (!first) return undefined;
  const short = limits.find((one) => one.needed > one.free);
  if (short)
    return blocks(
      'capacity',
      title,
      `${short.needed} vCPU${short.of} needed, ${short.free} of ${short.vcpu} free`,
      'Ask for more quota.',
    );
  return passes(
    'capacity',
    title,
    limits.map((one) => `${one.needed} of ${one.free} free vCPU${one.of}`).join('; '),
  );
}

function credentialsCheck({ facts, tasks }: Plan): Check | undefined {
  const title = 'Credentials';
  const { worked, says } = facts.site.signIn;
  if (tasks.length === 0) return undefined;
  if (!worked)
    return seenIn(
      blocks('credentials', title, says, 'Mend the credentials of the provider under Ground.'),
      `tried at the provider of ${facts.site.name}`,
      facts.now,
    );
  return seenIn(passes('credentials', title, says), `tried at the provider of ${facts.site.name}`, facts.now);
}

function directoryCheck(plan: Plan): Check | undefined {
  const title = 'Directory';
  const { worked, says } = plan.facts.site.directory;
  if (!making(plan).some(({ kind }) => kind.carriesSessions === true)) return undefined;
  const { customer, now } = plan.facts;
  return seenIn(
    worked
      ? passes('directory', title, says)
      : blocks('directory', title, says, 'Hosts could not join: see that the directory answers.'),
    `${customer.realm} was asked for its computers`,
    now,
  );
}

/**
 * Whether hosts would reach the directory and the name servers: from a network that stands, it is tried. What the change
 * itself makes or mends of the way cannot be tried before, and is not held against it.
 */
function routeCheck({ facts, tasks }: Plan): Check | undefined {
  const title = 'Network';
  const { services, route, nameServers } = facts.site;
  if (!tasks.some(({ kind, task }) => kind.carriesSessions === true && task.do === 'make')) return undefined;
  if (!services) return undefined;
  const changing = tasks.filter(({ kind, task }) => kind.isWay === true && task.do !== 'remove');
  const isNew = changing.some(({ kind, task }) => kind.joins !== undefined && task.do === 'make');
  const then = isNew
    ? 'the whole way is tried before a host is built'
    : 'the whole way can be tried under Ground, Networks, once it is changed';
  if (changing.length > 0)
    return nameServers
      ? seenIn(
          nameServers.worked
            ? passes('route', title, `${nameServers.says}; ${then}`)
            : blocks('name-servers', title, nameServers.says, 'Correct the name servers of the customer.'),
          'asked from the shared services',
          facts.now,
        )
      : warns('route', title, 'not tried: this makes or changes it first', `Go on: ${then}.`);
  if (!route) return undefined;
  return seenIn(
    route.worked
      ? passes('route', title, route.says)
      : blocks('route', title, route.says, 'Mend how it is joined, under Ground, Networks.'),
    'tried from the network itself',
    facts.now,
  );
}

/** Nobody is let in by a certificate that has ended. */
function certificateCheck({ facts, tasks }: Plan): Check | undefined {
  const { gateway } = facts.customer;
  if (!gateway || !tasks.some(({ kind, task }) => kind.carriesSessions === true && task.do === 'make'))
    return undefined;
  const title = 'Certificate';
  const says = certificateReminder(gateway.name, gateway.until, facts.now);
  if (says === undefined) return passes('certificate', title, `holds for ${gateway.name}`);
  const action = 'Give the gateway a new certificate.';
  return gateway.until <= facts.now
    ? blocks('certificate', title, says, action)
    : warns('certificate', title, says, action);
}

/** What others are joined with stays until they are not. */
function joinedCheck({ facts, tasks }: Plan): Check | undefined {
  const joined = facts.site.joinedBy ?? 0;
  if (joined === 0 || !tasks.some(({ kind, task }) => kind.shared === true && task.do === 'remove'))
    return undefined;
  return blocks(
    'joined',
    'In use',
    `${joined === 1 ? '1 customer is' : `${joined} customers are`} joined with it`,
    'Retire or move what they have here first.',
  );
}

function ratesCheck({ unpriced, tasks }: Plan): Check | undefined {
  const title = 'Rates';
  const [first] = unpriced;
  if (first)
    return blocks(
      'rates',
      title,
      `no rate for ${first.meter}${first.size === null ? '' : ` of ${first.size}`} holds today`,
      'Add it to the rate card.',
    );
  return tasks.some(({ task }) => task.do === 'make') ? passes('rates', title, 'all priced') : undefined;
}

/** Whether a lead who did not ask for it has to say yes. */
function approvalCheck({ facts, change, monthly }: HostPlan): Check | undefined {
  const needed =
    facts.approval &&
    wordNeeded(facts.approval, [change.kind, change.partOf ?? change.kind], monthly, facts.approval.begun);
  if (!needed) return undefined;
  return warns(
    APPROVAL,
    'Approval',
    needed.why === 'kind'
      ? `${change.verb.toLowerCase()} needs approval by another lead`
      : `more than ${plain(needed.above)} ${needed.above.currency} a month needs approval by another lead${(facts.approval?.begun ?? 0) > 0 ? ', together with what you began here in the last 30 days' : ''}`,
    'Ask for approval: it is held until a lead approves it.',
  );
}

/** When it would work, and whether it ends within its window. */
function windowCheck({
  facts: { now, customer },
  policy: { window },
  seconds,
  tasks,
}: HostPlan): Check | undefined {
  if (!window || tasks.length === 0) return undefined;
  const title = 'Window';
  const found = windowAt(window, now, customer.zone);
  if (!found) return blocks('window', title, 'names no day', 'Choose a day on which it begins.');
  const [begins, minutes] = [Math.max(now, found.from), Math.ceil(seconds / 60)];
  const left = Math.floor((found.to - begins) / 60_000);
  const when = DateTime.fromMillis(begins, { zone: customer.zone }).toFormat('ccc d LLL HH:mm');
  const says = `${writeWindow(window)}: begins ${begins === now ? 'now' : when} in ${customer.zone}`;
  return minutes <= left
    ? passes('window', title, `${says}, and ends within it`)
    : warns(
        'window',
        title,
        `${says}; it takes about ${minutes} min and has ${left}: the rest waits for the next one`,
        'Work on more at a time, or choose a longer window.',
      );
}
