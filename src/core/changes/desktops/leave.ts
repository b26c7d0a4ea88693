import Joi from 'joi';
import { DateTime } from 'luxon';
import { keyOfKept, keptUntil } from '../../desktops';
import { KEPT_DISKS, patchHost, type HostIntent, type Intent } from '../../intent';
import { defineChange, passes, type Check } from '../../planning';
import { ok, refuse } from '../../result';
import { hostIds, withHosts } from '../common';
import {
  desktopsById,
  desktopsSay,
  keysOf,
  liftPower,
  nobodys,
  putAside,
  withNextDisk,
  type Desktop,
} from './common';

interface Desktops {
  /** Ids of their hosts. */
  readonly hosts: readonly string[];
}

const input = Joi.object<Desktops>({ hosts: hostIds.required() });
const say = (raw: Desktops, facts: Parameters<typeof desktopsById>[1]): string => {
  const found = desktopsById(facts.environment?.intent ?? null, facts, raw.hosts);
  return found.ok ? desktopsSay(found.value.desktops) : 'desktops';
};

/** Those whose person has left: off at once, and kept as long as the plan says. */
export const keepDesktops = defineChange<Desktops>({
  kind: 'keep-desktops',
  subject: 'environment',
  of: 'customers',
  verb: 'Keep for who left',
  input,
  right: 'build',
  confirm: 'press',
  touches: ['leftAt'],
  undo: 'none',
  title: (raw, facts) => `Keep ${say(raw, facts)}, who left`,
  edit: (intent, { hosts }, facts) => {
    const found = desktopsById(intent, facts, hosts);
    if (!found.ok) return found;
    const { desktops } = found.value;
    if (desktops.some(({ host }) => host.person === undefined))
      return refuse({ hosts: 'one of them is nobody’s' });
    if (desktops.some(({ host }) => host.leftAt !== undefined))
      return refuse({ hosts: 'one of them is kept already' });
    return ok(
      withHosts(found.value.intent, keysOf(desktops), (host) => patchHost(host, { leftAt: facts.now })),
    );
  },
  overrides: ({ hosts }, facts) => liftPower(facts, hosts),
  policy: () => ({
    atATime: 8,
    failureLimit: 2,
    drain: { minutes: 2, message: 'This desktop is closed.' },
  }),
  checks: (_edited, _input, facts): Check[] => [
    passes(
      'retention',
      'Kept',
      `until ${dayOf(keptUntil(facts.now, facts.customer.plan), facts.customer.zone)}, as plan ${facts.customer.plan.name} says; then all of it goes`,
    ),
  ],
});

const dayOf = (at: number, zone: string): string => DateTime.fromMillis(at, { zone }).toFormat('d LLLL yyyy');

/** Who comes back finds their desktop as it was. */
export const giveBack = defineChange<Desktops>({
  kind: 'give-back',
  subject: 'environment',
  of: 'customers',
  verb: 'Give back',
  input,
  right: 'build',
  confirm: 'press',
  touches: ['leftAt'],
  undo: 'none',
  title: (raw, facts) => `Give ${say(raw, facts)} back`,
  edit: (intent, { hosts }, facts) => {
    const found = desktopsById(intent, facts, hosts);
    if (!found.ok) return found;
    const { desktops } = found.value;
    if (desktops.some(({ host }) => host.leftAt === undefined))
      return refuse({ hosts: 'one of them is not kept for anybody' });
    return ok(
      withHosts(found.value.intent, keysOf(desktops), (host) => patchHost(host, { leftAt: undefined })),
    );
  },
  overrides: ({ hosts }, facts) => liftPower(facts, hosts),
  policy: () => ({ atATime: 8, failureLimit: 2 }),
});

interface EndDesktops extends Desktops {
  /** What becomes of what their people kept there. */
  readonly data: 'wiped' | 'archived';
  /** Whether the host stays, for whoever comes next. */
  readonly host: 'stays' | 'goes';
}

/** Takes desktops from their people: the hosts go or stay for others, the disks are wiped or put aside. */
export const endDesktops = defineChange<EndDesktops>({
  kind: 'end-desktops',
  subject: 'environment',
  of: 'customers',
  verb: 'End desktops',
  input: Joi.object<EndDesktops>({
    hosts: hostIds.required(),
    data: Joi.string().valid('wiped', 'archived').required(),
    host: Joi.string().valid('stays', 'goes').required(),
  }),
  right: 'build',
  confirm: 'type the code',
  touches: ['person', 'personId', 'leftAt', 'disk', 'host gone'],
  destroys: true,
  undo: 'none',
  title: (raw, facts) => `End ${say(raw, facts)}`,
  edit: (intent, { hosts, data, host: hostChoice }, facts) => {
    const found = desktopsById(intent, facts, hosts);
    if (!found.ok) return found;
    const { desktops } = found.value;
    const without = withHosts(found.value.intent, keysOf(desktops), (host) =>
      hostChoice === 'goes' ? undefined : emptied(found.value.intent, desktops, host),
    );
    const aside = desktops.filter((one) => one.pool.ownDiskGiB > 0 && one.host.person !== undefined);
    if (data === 'wiped' || aside.length === 0) return ok(without);
    const kept = [
      ...(without.more[KEPT_DISKS] ?? []),
      ...aside.map((one) => putAside(one, keptUntil(facts.now, facts.customer.plan))),
    ];
    return ok({ ...without, more: { ...without.more, [KEPT_DISKS]: kept } });
  },
  overrides: ({ hosts }, facts) => liftPower(facts, hosts),
  policy: () => ({
    atATime: 8,
    failureLimit: 2,
    drain: { minutes: 10, message: 'This desktop ends. Please save what you need elsewhere.' },
  }),
});

/** Nobody's, with an empty disk where it has one. */
function emptied(intent: Intent, desktops: readonly Desktop[], host: HostIntent): HostIntent {
  const own = desktops.find((one) => one.host === host);
  return own && own.pool.ownDiskGiB > 0 ? withNextDisk(intent, own.pool, nobodys(host)) : nobodys(host);
}

interface DropDisks {
  /** Keys of disks that were put aside: `personal-disk:draw:2:1`. */
  readonly disks: readonly string[];
}

/** Takes disks away that were put aside, and all that is on them. */
export const dropDisks = defineChange<DropDisks>({
  kind: 'drop-disks',
  subject: 'environment',
  of: 'customers',
  verb: 'Drop disks',
  input: Joi.object<DropDisks>({
    disks: Joi.array().items(Joi.string().max(160)).min(1).max(2_000).unique().required(),
  }),
  right: 'build',
  confirm: 'type the code',
  destroys: true,
  undo: 'none',
  title: ({ disks }, facts) =>
    `Drop ${disks.length === 1 ? 'a disk' : `${disks.length} disks`} that ${facts.environment?.intent.name ?? ''} kept`,
  edit: (intent, { disks }) => {
    if (intent === null) return refuse({ environment: 'is not there' });
    const kept = intent.more[KEPT_DISKS] ?? [];
    if (!disks.every((key) => kept.some((one) => keyOfKept(one) === key)))
      return refuse({ disks: 'one of them is not kept here' });
    const left = kept.filter((one) => !disks.includes(keyOfKept(one)));
    const { [KEPT_DISKS]: _kept, ...more } = intent.more;
    return ok({ ...intent, more: left.length === 0 ? more : { ...more, [KEPT_DISKS]: left } });
  },
  policy: () => ({ atATime: 8, failureLimit: 2 }),
  people: () => 0,
});
