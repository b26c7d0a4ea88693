import { createHash } from 'node:crypto';
import type { Attention, CustomerSummary, Look, LookMark, ParentRun, Run } from '../../contract';
import { hardshipOf, inOrderOfLooking, pressOf, type LookCause } from '../../core/looks';
import { signKind, type Gathered } from '../../core/signs';

/** What needs a look, before anybody said anything of it. */
interface Found extends Omit<Look, 'mark'> {
  readonly press: number;
}

/** A run over several that has stopped. */
export interface StoppedParent extends Pick<ParentRun, 'id' | 'title' | 'cause' | 'failed'> {
  readonly customers: readonly string[];
}

export interface LookFacts {
  readonly signs: readonly Gathered[];
  readonly customers: readonly Pick<CustomerSummary, 'code' | 'attention' | 'arcs' | 'hosts'>[];
  readonly runs: readonly Run[];
  readonly parents: readonly StoppedParent[];
  /** What concerns no one customer. */
  readonly attention: readonly Attention[];
}

/** All that needs a look: what hits most people first; of what hits nobody, what presses most. */
export const looksOf = (facts: LookFacts, marks: ReadonlyMap<string, LookMark>): Look[] =>
  inOrderOfLooking(
    onceEach([
      ...facts.signs.map(fromSigns),
      ...facts.attention.map((one) => fromAttention(one, null, { of: 'all', kind: one.kind })),
      ...facts.runs.filter((run) => run.state === 'stopped').map(fromRun),
      ...facts.parents.map(fromParent),
      ...facts.customers.flatMap(({ code, attention, arcs, hosts }) =>
        attention.map((one) =>
          fromAttention(one, code, {
            of: 'customer',
            kind: one.kind,
            hardship: hardshipOf(arcs, hosts),
          }),
        ),
      ),
    ]),
  ).map(({ press: _press, ...look }): Look => ({ ...look, mark: marks.get(look.key) ?? null }));

/** What is said twice in the same words is one line: like two proposals of one title that wait. */
const onceEach = (found: readonly Found[]): Found[] => [
  ...new Map([...found].reverse().map((one) => [one.key, one])).values(),
];

const QUIET = { people: 0, harm: null, since: null, helps: '' } as const;

function fromSigns({ key, of, kind, harm, says, since, people, signs }: Gathered): Found {
  const customers = [...new Set(signs.map((one) => one.customer))].sort();
  const [code] = customers;
  const [first] = signs;
  // A node is no one customer's, even where only one of those on it is in reach.
  const isOne = of !== 'node' && code !== undefined;
  return {
    key,
    says,
    people,
    harm,
    since,
    customer: isOne ? code : null,
    customers,
    href: !isOne
      ? '/ground'
      : signs.length === 1
        ? `/customers/${code}/hosts/${first?.host.id ?? ''}`
        : `/customers/${code}/environments/${first?.environment ?? ''}`,
    helps: signKind(kind).helps,
    press: pressOf({ of: 'sign', harm }),
  };
}

function fromRun(run: Run): Found {
  const byHand = run.cause === 'by hand';
  const failed = `${run.failed} ${run.failed === 1 ? 'step' : 'steps'} failed`;
  return {
    ...QUIET,
    key: `run ${run.id}`,
    says: `${run.title}: stopped, ${byHand ? 'by hand' : failed}`,
    customer: run.customer,
    customers: [run.customer],
    href: `/customers/${run.customer}/runs/${run.id}`,
    press: pressOf({ of: 'run', byHand }),
  };
}

function fromParent({ id, title, cause, failed, customers }: StoppedParent): Found {
  const byHand = cause === 'by hand';
  const how = byHand
    ? ', by hand'
    : failed === 0
      ? ''
      : `, ${failed} ${failed === 1 ? 'part' : 'parts'} failed`;
  return {
    ...QUIET,
    key: `run ${id}`,
    says: `${title}: stopped${how}`,
    customer: null,
    customers: [...customers],
    href: `/runs/${id}`,
    press: pressOf({ of: 'run', byHand }),
  };
}

/** Where a kind of it is mended, under a customer's own pages. */
const PLACES: Partial<Readonly<Record<Attention['kind'], string>>> = {
  approval: '/runs',
  directory: '/people',
  money: '/costs',
};

/** What is said changes as the trouble does: then it is looked at anew, whatever was said of it before. */
const fromAttention = ({ kind, says }: Attention, code: string | null, cause: LookCause): Found => ({
  ...QUIET,
  key: `${kind} ${code ?? ''} ${createHash('sha256').update(says).digest('hex').slice(0, 24)}`,
  says,
  customer: code,
  customers: code === null ? [] : [code],
  href: code === null ? '/ground' : `/customers/${code}${PLACES[kind] ?? ''}`,
  press: pressOf(cause),
});
