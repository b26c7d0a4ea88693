import type { HostIntent, PoolIntent } from '../intent';

/** Somebody whose desktops may have to follow what happened to them. */
export interface PersonNow {
  /** Their account now, or the last one that they had. */
  readonly account: string;
  /** Whether they left. */
  readonly left: boolean;
}

/** What becomes of a desktop of somebody's own: kept for who left, given back, or under its person's new account. */
export type DesktopMove =
  | { readonly do: 'keep' | 'give back'; readonly slot: number }
  | { readonly do: 'rename'; readonly slot: number; readonly to: string };

/**
 * What has to be done with the desktops of a pool, since people left, came back or are called otherwise. A desktop goes by
 * its person: whoever gets the account of somebody who left is not them, and gets nothing of theirs.
 * @param of a person by our id; undefined: nothing happened to them
 */
export function desktopMoves(
  { hosts }: Pick<PoolIntent, 'hosts'>,
  of: (personId: string) => PersonNow | undefined,
): DesktopMove[] {
  return hosts.flatMap((host) => {
    const now = host.personId === undefined ? undefined : of(host.personId);
    return now ? moveOf(host, now) : [];
  });
}

function moveOf({ slot, person, leftAt }: HostIntent, { account, left }: PersonNow): DesktopMove[] {
  if (left) return leftAt === undefined ? [{ do: 'keep', slot }] : [];
  if (leftAt !== undefined) return [{ do: 'give back', slot }];
  return person === account ? [] : [{ do: 'rename', slot, to: account }];
}
