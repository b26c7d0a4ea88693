import Joi from 'joi';
import type { HostFacts, KnownResource } from '../facts';
import { lifting, NO_OVERRIDE_EDIT, OVERRIDDEN, setting, together, type OverrideWish } from '../overrides';
import { defineHostChange, passes, warns, type Check } from '../planning';
import { ok, refuse } from '../result';
import { hostIds, hostsById, hostsSay, nameOf } from './common';
import { switched, untilField, type SwitchedHosts } from './switch-hosts';
import { isHostOf } from '../resources';

/* What is done with hosts to keep them well, without anyone losing a seat. */

interface HostsInput {
  /** Ids of hosts. */
  readonly hosts: readonly string[];
}

const NOT_HERE = 'one of them is not a host of this environment';

const input = Joi.object<HostsInput>({ hosts: hostIds.required() });

interface MaintainHosts extends SwitchedHosts {
  /** Whether a picture of each is taken before, and kept until it is taken back. */
  readonly picture: boolean;
}

const maintainInput = Joi.object<MaintainHosts>({
  hosts: hostIds.required(),
  until: untilField,
  picture: Joi.boolean()
    .default(false)
    .description('Whether a picture of each is taken before, to go back to'),
});

/** A pool as whoever is signed out of one of its hosts finds it. */
interface Room {
  readonly role: string;
  /** Of those that are chosen, how many take people now: the others take no seat away. */
  readonly chosen: number;
  /** Hosts that take people while none is chosen. */
  readonly open: number;
  readonly seats: number;
  readonly people: number;
  readonly isPersonal: boolean;
}

const isOpen = ({ attributes: { power, accepting } }: KnownResource): boolean =>
  power === 'on' && accepting === true;

/** The pools that hosts are of. */
function roomsOf(facts: HostFacts, hosts: readonly KnownResource[]): Room[] {
  const chosen = new Set(hosts.map((one) => one.id));
  return (facts.environment?.intent.pools ?? []).flatMap((pool): Room[] => {
    const all = facts.known.filter((one) => one.wanted && isHostOf(one, pool.role));
    const count = all.filter((one) => chosen.has(one.id)).length;
    return count === 0
      ? []
      : [
          {
            role: pool.role,
            chosen: all.filter((one) => chosen.has(one.id) && isOpen(one)).length,
            open: all.filter(isOpen).length,
            seats: pool.seats,
            people: all.reduce((sum, one) => sum + one.people, 0),
            isPersonal: pool.mostSeats === 1,
          },
        ];
  });
}

/**
 * So many hosts of a pool can be out at once while everyone who is in finds a seat on the others; 0: not even one. Where
 * everyone has a host of their own nobody could go elsewhere: then as many as one likes.
 * @example
 * outAtOnce({ open: 4, seats: 10, people: 25, isPersonal: false }) // 1
 */
export function outAtOnce({
  open,
  seats,
  people,
  isPersonal,
}: Pick<Room, 'open' | 'seats' | 'people' | 'isPersonal'>): number {
  if (isPersonal) return Infinity;
  return Math.max(0, open - Math.ceil(people / Math.max(1, seats)));
}

const MOST_AT_ONCE = 10;

/** Hosts that are taken together: in no pool more than leave everyone a seat, and at least one. */
const waveOf = (facts: HostFacts, hosts: readonly KnownResource[]): number =>
  Math.max(1, Math.min(MOST_AT_ONCE, ...roomsOf(facts, hosts).map(outAtOnce)));

/** Whether those who are signed out find a seat elsewhere, with so many hosts of a pool out at once. */
function seatsElsewhere(
  facts: HostFacts,
  hosts: readonly KnownResource[],
  together: (room: Room) => number,
): Check[] {
  const leftIn = (room: Room): number => Math.max(0, room.open - together(room)) * room.seats;
  const short = roomsOf(facts, hosts).filter((room) => !room.isPersonal && leftIn(room) < room.people);
  if (short.length === 0) return [passes('seats', 'Seats', 'everyone who is in finds a seat elsewhere')];
  return short.map((room) =>
    warns(
      'seats',
      'Seats',
      `${room.role} has ${leftIn(room)} seats for the ${room.people} people who are in`,
      'Choose fewer at once, or wait until fewer are in.',
    ),
  );
}

const DRAIN = {
  minutes: 15,
  message: 'This desktop is about to restart. Please save, sign out and sign in again.',
};

/** Why hosts cannot be restarted. */
function unfitToRestart(facts: HostFacts, hosts: readonly KnownResource[]): string | undefined {
  const off = hosts.find((one) => one.attributes.power !== 'on');
  if (off) return `${off.name} is off: power it on instead`;
  const unwell = hosts.find((one) =>
    facts.present.some(({ key, condition }) => key === one.key && condition === 'unwell'),
  );
  return unwell && `the provider cannot reach ${unwell.name}: a restart does not help, making it anew does`;
}

/** Restarts hosts one group after the other: drained first, and never so many that somebody finds no seat. */
export const restartHosts = defineHostChange<HostsInput>({
  kind: 'restart-hosts',
  of: 'customers',
  verb: 'Restart',
  input,
  right: 'run',
  confirm: 'press',
  title: ({ hosts }, facts) => `Restart ${hostsSay(hostsById(facts, hosts) ?? [])} of ${nameOf(facts)}`,
  overrides: ({ hosts }, facts) => {
    const found = hostsById(facts, hosts);
    if (!found) return refuse({ hosts: NOT_HERE });
    const unfit = unfitToRestart(facts, found);
    return unfit === undefined ? ok(NO_OVERRIDE_EDIT) : refuse({ hosts: unfit });
  },
  asks: ({ hosts }, facts) => (hostsById(facts, hosts) ?? []).map(({ key }) => ({ key, ask: 'restart' })),
  policy: ({ hosts }, facts) => ({
    atATime: 10,
    failureLimit: 1,
    waves: waveOf(facts, hostsById(facts, hosts) ?? []),
    drain: DRAIN,
  }),
  checks: ({ hosts }, facts) =>
    seatsElsewhere(facts, hostsById(facts, hosts) ?? [], ({ chosen }) => Math.min(1, chosen)),
});

/** Takes hosts out for maintenance: nobody new, those who are in sign out, and then they are off. */
export const maintainHosts = defineHostChange<MaintainHosts>({
  kind: 'maintain-hosts',
  of: 'customers',
  verb: 'Put in maintenance',
  input: maintainInput,
  right: 'run',
  confirm: 'press',
  undoneBy: 'end-maintenance',
  title: ({ hosts }, facts) =>
    `Put ${hostsSay(hostsById(facts, hosts) ?? [])} of ${nameOf(facts)} in maintenance`,
  overrides: (asked, facts) => {
    const found = switched(asked, facts);
    if (!found.ok) return found;
    const wishes: readonly OverrideWish[] = [
      { attribute: 'power', value: 'off' },
      { attribute: 'accepting', value: false },
      ...(asked.picture ? [{ attribute: 'picture', value: true } as const] : []),
    ];
    return ok(
      together(
        found.value.flatMap(({ key }) =>
          wishes.map((wish) => setting(wish, key, facts.overrides ?? [], asked.until)),
        ),
      ),
    );
  },
  policy: ({ hosts }) => ({
    atATime: 10,
    failureLimit: Math.max(1, Math.ceil(hosts.length / 2)),
    drain: {
      ...DRAIN,
      message: 'This desktop is about to be off for a while. Please save, sign out and sign in again.',
    },
  }),
  checks: ({ hosts }, facts) => seatsElsewhere(facts, hostsById(facts, hosts) ?? [], ({ chosen }) => chosen),
});

/** Brings hosts back to what they were when their picture was taken; what was done to them since is gone. */
export const goBackToPicture = defineHostChange<HostsInput>({
  kind: 'go-back-to-picture',
  of: 'customers',
  verb: 'Go back to the picture',
  input,
  right: 'run',
  confirm: 'type the code',
  title: ({ hosts }, facts) =>
    `Bring ${hostsSay(hostsById(facts, hosts) ?? [])} of ${nameOf(facts)} back to its picture`,
  overrides: ({ hosts }, facts) => {
    const found = hostsById(facts, hosts);
    if (!found) return refuse({ hosts: NOT_HERE });
    const bare = found.find((one) => one.attributes.picture !== true);
    return bare ? refuse({ hosts: `no picture of ${bare.name} is kept` }) : ok(NO_OVERRIDE_EDIT);
  },
  asks: ({ hosts }, facts) => (hostsById(facts, hosts) ?? []).map(({ key }) => ({ key, ask: 'go back' })),
  policy: () => ({ atATime: 10, failureLimit: 1, drain: DRAIN }),
});

/** Takes hosts back from maintenance: nothing of them is set by hand any more, and their pictures are kept no longer. */
export const endMaintenance = defineHostChange<HostsInput>({
  kind: 'end-maintenance',
  verb: 'Take back',
  input,
  right: 'run',
  confirm: 'press',
  undoneBy: 'maintain-hosts',
  title: ({ hosts }, facts) => `Take back ${hostsSay(hostsById(facts, hosts) ?? [])} of ${nameOf(facts)}`,
  overrides: ({ hosts }, facts) => {
    const found = hostsById(facts, hosts);
    if (!found) return refuse({ hosts: NOT_HERE });
    const { overrides = [] } = facts;
    return ok(
      together(found.flatMap(({ key }) => OVERRIDDEN.map((attribute) => lifting(attribute, key, overrides)))),
    );
  },
  policy: ({ hosts }) => ({ atATime: 10, failureLimit: Math.max(1, Math.ceil(hosts.length / 2)) }),
});

export const CARE_CHANGES = [restartHosts, maintainHosts, goBackToPicture, endMaintenance];
