import type { CustomerSummary } from '../../contract';

export const GROUPINGS = ['need', 'site', 'plan', 'status'] as const;
export type Grouping = (typeof GROUPINGS)[number];

/** Which customers are shown, and how they stand together. An empty text chooses nothing out. */
export interface Choice {
  readonly by: Grouping;
  readonly find: string;
  readonly site: string;
  readonly plan: string;
  readonly status: string;
  /** Only those that one has changed something for lately. */
  readonly mine: boolean;
}

export const EVERYONE: Choice = { by: 'need', find: '', site: '', plan: '', status: '', mine: false };

export function isChosen(one: CustomerSummary, choice: Choice, mine: ReadonlySet<string>): boolean {
  const find = choice.find.trim().toLowerCase();
  return (
    (choice.site === '' || one.site === choice.site) &&
    (choice.plan === '' || one.plan === choice.plan) &&
    (choice.status === '' || one.state === choice.status) &&
    (!choice.mine || mine.has(one.code)) &&
    (find === '' || `${one.code} ${one.name}`.toLowerCase().includes(find))
  );
}

export interface Group {
  readonly title: string;
  readonly customers: readonly CustomerSummary[];
}

/** Who needs a look stands first, in every group too. */
const NEEDS = ['Needs a look', 'A run at work', 'Calm'] as const;
export type NeedWord = (typeof NEEDS)[number];

/** The customers in groups: by need, or by what they have in common, the largest group first. */
export function groupsOf(
  customers: readonly CustomerSummary[],
  by: Grouping,
  needOf: (one: CustomerSummary) => NeedWord,
): Group[] {
  const titleOf = (one: CustomerSummary): string => {
    switch (by) {
      case 'need':
        return needOf(one);
      case 'site':
        return one.site;
      case 'plan':
        return one.plan;
      case 'status':
        return one.state;
    }
  };
  const rank = (one: CustomerSummary): number => NEEDS.indexOf(needOf(one));
  const groups = new Map<string, CustomerSummary[]>();
  for (const one of [...customers].sort((a, b) => rank(a) - rank(b) || (a.code < b.code ? -1 : 1))) {
    const title = titleOf(one);
    const group = groups.get(title);
    if (group) group.push(one);
    else groups.set(title, [one]);
  }
  const found = [...groups].map(([title, mine]): Group => ({ title, customers: mine }));
  return by === 'need' ? found : found.sort((a, b) => b.customers.length - a.customers.length);
}

/** Where a key leads from one of `count` that stand in rows of `aRow`; undefined: nowhere, or out of the group. */
export function stepFrom(at: number, key: string, aRow: number, count: number): number | undefined {
  const steps: Readonly<Record<string, number>> = {
    ArrowRight: at + 1,
    ArrowLeft: at - 1,
    ArrowDown: at + aRow,
    ArrowUp: at - aRow,
    Home: 0,
    End: count - 1,
  };
  const next = steps[key];
  return next !== undefined && next >= 0 && next < count ? next : undefined;
}
