import type { HostIntent, PoolIntent } from '../intent';

/** Whom an account is or was, in the customer's directory. */
export interface AccountFacts {
  /** Whether somebody has it who is here. */
  readonly here: boolean;
  /** Whether somebody had it who left. */
  readonly left: boolean;
  /** What whoever had it is called now; undefined: nobody was renamed from it. */
  readonly now?: string | undefined;
}

/** What becomes of a desktop of somebody's own: kept for who left, given back, or under its person's new account. */
export type DesktopMove =
  | { readonly do: 'keep' | 'give back'; readonly slot: number }
  | { readonly do: 'rename'; readonly slot: number; readonly to: string };

/**
 * What has to be done with the desktops of a pool, since people left, came back or are called otherwise. Whoever has the
 * account of somebody who left is not them, and gets nothing of theirs.
 * @param of whom an account is; undefined: nobody ever had it in the directory
 */
export function desktopMoves(
  { hosts }: Pick<PoolIntent, 'hosts'>,
  of: (account: string) => AccountFacts | undefined,
): DesktopMove[] {
  return hosts.flatMap((host) => {
    const facts = host.person === undefined ? undefined : of(host.person);
    return facts ? moveOf(host, facts) : [];
  });
}

function moveOf({ slot, leftAt }: HostIntent, { here, left, now }: AccountFacts): DesktopMove[] {
  if (leftAt !== undefined) return here && !left ? [{ do: 'give back', slot }] : [];
  if (now !== undefined && !here) return [{ do: 'rename', slot, to: now }];
  // Where somebody else has the account by now it cannot be told whose it is: that is for people to say.
  return left && !here ? [{ do: 'keep', slot }] : [];
}
