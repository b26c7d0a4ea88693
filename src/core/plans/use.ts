import { KEPT_DISKS, type Intent } from '../intent';
import type { MachineSize } from '../machines';
import { isPersonal } from '../sizing';
import { LIMITS, NO_AMOUNTS, writeAmount, type Amounts, type Limit, type PlanFacts } from './terms';

/**
 * What an environment takes of its customer's plan.
 * @param intent null: nothing is wanted
 * @param sizes those of its site; a size that is not there any more counts no vCPU and no memory
 */
export function takenBy(intent: Intent | null, sizes: readonly MachineSize[]): Amounts {
  const pools = intent?.pools ?? [];
  const hosts = pools.flatMap((pool) =>
    pool.hosts.map((host) => ({
      size: sizes.find((one) => one.key === (host.size ?? pool.size)),
      diskGiB: host.diskGiB ?? pool.diskGiB,
      personal: isPersonal(pool) ? 1 : 0,
    })),
  );
  const sum = (of: (host: (typeof hosts)[number]) => number): number =>
    hosts.reduce((total, host) => total + of(host), 0);
  return {
    people: intent?.people ?? 0,
    hosts: hosts.length,
    vcpu: sum(({ size }) => size?.vcpu ?? 0),
    memoryGiB: sum(({ size }) => size?.memoryGiB ?? 0),
    storageGiB:
      sum(({ diskGiB }) => diskGiB) +
      pools.reduce(
        (total, { shareGiB, ownDiskGiB, hosts: own }) => total + shareGiB + ownDiskGiB * own.length,
        0,
      ) +
      (intent?.more[KEPT_DISKS] ?? []).reduce((total, { gib }) => total + Number(gib), 0),
    personal: sum(({ personal }) => personal),
  };
}

export const addAmounts = (a: Amounts, b: Amounts, sign: 1 | -1 = 1): Amounts =>
  each((limit) => a[limit] + sign * b[limit]);

const each = (amount: (limit: Limit) => number): Amounts =>
  LIMITS.reduce<Amounts>((all, limit) => ({ ...all, [limit]: amount(limit) }), NO_AMOUNTS);

/** What holds for a customer now: the plan's limit, or a higher one that was allowed and has not ended. */
export function mostOf(plan: PlanFacts, limit: Limit, now: number): number | null {
  const most = plan.most[limit];
  if (most === null) return null;
  return Math.max(
    most,
    ...plan.allowances.filter((one) => one.limit === limit && now < one.until).map((one) => one.most),
  );
}

/** A limit that is or would be passed. */
export interface Passed {
  readonly limit: Limit;
  readonly amount: number;
  readonly most: number;
  /** `12 hosts; plan Skiff allows 4`. */
  readonly says: string;
}

/** The limits that an amount passes, in their order. */
export function limitsPassed(amounts: Amounts, plan: PlanFacts, now: number): Passed[] {
  return LIMITS.flatMap((limit) => {
    const most = mostOf(plan, limit, now);
    const amount = amounts[limit];
    if (most === null || amount <= most) return [];
    return [{ limit, amount, most, says: passedSays(limit, amount, most, plan) }];
  });
}

function passedSays(limit: Limit, amount: number, most: number, plan: PlanFacts): string {
  const allowed = plan.most[limit] === most ? '' : ', as it was raised for them';
  return `${writeAmount(limit, amount)}; plan ${plan.name} allows ${most}${allowed}`;
}
