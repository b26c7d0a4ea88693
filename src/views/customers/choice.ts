import type { CustomerSummary } from '../../contract';

/** What is chosen of the list; what is left out is not asked for. */
export interface Choice {
  readonly plan?: string;
  readonly site?: string;
  readonly state?: string;
  /** `sector:veterinary`. */
  readonly tag?: string;
  /** Only those that need a look. */
  readonly need?: boolean;
}

const TEXTS = ['plan', 'site', 'state', 'tag'] as const;

/** As the page's address has it; what it does not know it leaves out. */
export function choiceOf(query: string): Choice {
  const given = new URLSearchParams(query);
  const texts = TEXTS.flatMap((name) => {
    const value = given.get(name);
    return value === null || value === '' ? [] : [[name, value]];
  });
  return { ...(Object.fromEntries(texts) as Choice), ...(given.get('need') === 'yes' ? { need: true } : {}) };
}

/** The same choice is always written the same. */
export function queryOf(choice: Choice): string {
  const written = new URLSearchParams();
  for (const name of TEXTS)
    if (choice[name] !== undefined && choice[name] !== '') written.set(name, choice[name]);
  if (choice.need === true) written.set('need', 'yes');
  return written.toString();
}

export const isChosen = (one: CustomerSummary, { plan, site, state, tag, need }: Choice): boolean =>
  (plan === undefined || one.plan === plan) &&
  (site === undefined || one.site === site) &&
  (state === undefined || one.state === state) &&
  (tag === undefined || tagsOf(one).includes(tag)) &&
  (need !== true || one.attention.length > 0);

/** `tag:value`, as they are chosen by. */
export const tagsOf = ({ tags }: Pick<CustomerSummary, 'tags'>): string[] =>
  Object.entries(tags).map(([tag, value]) => `${tag}:${value}`);

/** What there is to choose from among them, each with how many there are. */
export function choicesOf(
  customers: readonly CustomerSummary[],
): Readonly<Record<(typeof TEXTS)[number], readonly { readonly value: string; readonly count: number }[]>> {
  const counted = (of: (one: CustomerSummary) => readonly string[]): { value: string; count: number }[] => {
    const counts = new Map<string, number>();
    for (const value of customers.flatMap(of)) counts.set(value, (counts.get(value) ?? 0) + 1);
    return [...counts]
      .map(([value, count]) => ({ value, count }))
      .sort((a, b) => a.value.localeCompare(b.value, 'en'));
  };
  return {
    plan: counted((one) => [one.plan]),
    site: counted((one) => [one.site]),
    state: counted((one) => [one.state]),
    tag: counted(tagsOf),
  };
}
