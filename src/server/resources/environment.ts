import { DateTime } from 'luxon';
import type { Instant } from '../../core/calendar';
import type { PresentResource } from '../providers';
import { done, failed, follow, keyOf, NOT_TOLD, wait, type Now, type Outcome } from './work';

/** What is asked of the rest of the server for what belongs to a whole environment. */
export interface FrameNow extends Now {
  /** When the run's window begins, by the customer's clock, where that is yet to come. */
  readonly opens: { readonly at: Instant; readonly zone: string } | undefined;
  /** Every kind of resource, each after what it stands on. */
  readonly kinds: readonly string[];
  /** What is still metered of it, or there by the provider's record, by the provider's names. */
  standing(): Promise<number>;
  /** What is retained of it, by the provider's names. */
  retained(): Promise<ReadonlySet<string>>;
  /** Whether it was ever there for people: a run of it was carried out, or somebody was in. */
  wasOpen(): Promise<boolean>;
  /** The computer names that it has or had. */
  names(): Promise<string[]>;
  /** Ends it: everything of it is given back. */
  end(): Promise<void>;
}

export type FrameWork = (now: FrameNow) => Promise<Outcome>;

const warn: FrameWork = async (now) => {
  if (!(await now.wasOpen())) return done('nobody was ever in: nobody is written to');
  const people = await now.people(now.environment?.people ?? 0);
  const minutes = now.policy.drain?.minutes ?? 0;
  const name = now.environment?.name ?? '';
  await now.mail.send(now.step.id, {
    to: people.map((person) => person.mail),
    subject: `Your desktops in ${name} are closing`,
    body: `${deadline(now.opens, minutes)} After that the desktops of ${name} close for good.`,
  });
  return done(`${people.length} people were written to`);
};

/** By when people have to be out: at the hour that was chosen, or so many minutes from now. */
function deadline(opens: FrameNow['opens'], minutes: number): string {
  if (opens) {
    const at = DateTime.fromMillis(opens.at, { zone: opens.zone, locale: 'en-GB' });
    return `Please save your work and sign out before ${at.toFormat('HH:mm')} on ${at.toFormat('cccc d LLLL yyyy')} (${opens.zone}).`;
  }
  if (minutes === 0) return 'Please save your work and sign out now.';
  return `Please save your work and sign out within ${minutes === 1 ? 'a minute' : `${minutes} minutes`}.`;
}

/** What carries the environment's tag; never what is retained, whatever the provider made of its tags. */
async function leftOf({ provider, scope, environment, retained }: FrameNow): Promise<PresentResource[]> {
  const [found, kept] = await Promise.all([
    provider.resources({ customer: scope.customer.code, environment: environment?.id ?? '' }),
    retained(),
  ]);
  return found.filter(({ ref }) => !kept.has(ref));
}

/** Takes away what carries the environment's tag and was never noted, because an answer was lost on the way. */
const sweep: FrameWork = async (now) => {
  const { provider, step } = now;
  const next = (): Outcome => ({ kind: 'again', says: '', anew: 'step' });
  if (step.operation !== null) return follow(await provider.operation(step.operation), 'step', next);
  const left = await leftOf(now);
  // What others stand on goes last; what is of no kind that is known goes first.
  const rank = (kind: string): number => {
    const at = now.kinds.indexOf(kind);
    return at < 0 ? -now.kinds.length : -at;
  };
  const [first] = left.sort((a, b) => rank(a.kind) - rank(b.kind));
  if (!first) return done('nothing is left over');
  if (first.state === 'building') return wait(`${first.name} is still being made`);
  return follow(await provider.remove(first.ref, first.version, keyOf(now)), 'step', next);
};

/** Nothing may be left: neither at the provider nor in the directory, and nothing may still be metered. */
const prove: FrameWork = async (now) => {
  const { environment, directory } = now;
  const left = await leftOf(now);
  // What turned up since it was swept is swept too.
  if (left.length > 0 || now.step.operation !== null) return sweep(now);
  const names = await now.names();
  const known = new Set(
    (await directory.computers(environment?.realm ?? '')).map((name) => name.toUpperCase()),
  );
  const stuck = names.filter((name) => known.has(name.toUpperCase()));
  if (stuck.length > 0) return failed(`still in the directory: ${stuck.join(', ')}`);
  // The provider's record tells of the end by and by; until it has, something still counts.
  if ((await now.standing()) > 0) return wait(NOT_TOLD);
  await now.end();
  return done(`nothing is left; ${names.length} names are given back`);
};

export const FRAME_WORK: Readonly<Record<string, FrameWork>> = { warn, sweep, prove };
