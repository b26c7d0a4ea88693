import type { Proof as ProofOfGoing, ProofRow } from '../../contract';
import { useState } from 'react';
import { get, whyOf } from '../../client/api';
import { count, writeDay, writeExactly, writeMoney, writeMonth, writeWhen } from '../../client/format';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { Empty, Panel } from '../../ui/Panel';
import { Table, type Column } from '../../ui/Table';
import styles from './Proof.module.css';

/** Is anything left that costs money? Asked of the provider and the directory, not remembered. */
export function Proof({
  customer,
  id,
  initial,
  zone,
}: {
  readonly customer: string;
  readonly id: string;
  readonly initial: ProofOfGoing;
  readonly zone: string;
}) {
  const [proof, setProof] = useState(initial);
  const [problem, setProblem] = useState<string>();
  const ask = (): void => {
    get('/customers/{customer}/environments/{environment}/proof', { customer, environment: id }).then(
      (found) => {
        setProof(found);
        setProblem(undefined);
      },
      (error: unknown) => setProblem(whyOf(error)),
    );
  };
  const gone = proof.rows.filter((row) => row.says === 'gone' && !row.metering).length;
  const kept = proof.rows.filter((row) => row.says === 'kept').length;
  const columns: readonly Column<ProofRow>[] = [
    { id: 'kind', title: 'Kind', value: (row) => row.kind },
    {
      id: 'name',
      title: 'Name',
      value: (row) => row.name,
      cell: (row) => <span className="mono">{row.name}</span>,
    },
    {
      id: 'ref',
      title: 'At the provider',
      value: (row) => row.ref,
      cell: (row) => <span className="mono">{row.ref}</span>,
    },
    {
      id: 'says',
      title: 'The provider says',
      value: (row) => row.says,
      cell: (row) => (
        <Chip tone={TONE[row.says]}>
          {row.keptUntil === null ? row.says : `kept until ${writeDay(row.keptUntil, zone)}`}
        </Chip>
      ),
    },
    {
      id: 'goneAt',
      title: 'Since',
      value: (row) => row.goneAt ?? 0,
      cell: (row) => (row.goneAt === null ? '' : writeWhen(row.goneAt, zone)),
      figure: true,
    },
    {
      id: 'charge',
      title: 'Last charge',
      value: (row) => row.lastCharge.minor,
      cell: (row) => (row.metering ? <Chip tone="bad">still metered</Chip> : writeMoney(row.lastCharge)),
      figure: true,
    },
  ];
  return (
    <div className={styles.page}>
      <header className={styles.head} data-clean={proof.clean || undefined}>
        <svg viewBox="0 0 100 100" width="128" height="128" aria-hidden="true">
          <circle cx="50" cy="50" r="41" />
          {proof.clean ? <path d="M33 52L45 64L68 38" /> : <path d="M50 30V56M50 67V69" />}
        </svg>
        <div>
          <h1>{titleOf(proof, kept)}</h1>
          <p>
            {gone} of {count(proof.rows.length, 'resource is', 'resources are')} gone
            {kept > 0 && `, ${kept} kept for ${kept === 1 ? 'its' : 'their'} data`}, as the provider says;
            asked {writeExactly(proof.askedAt, zone)}
          </p>
          <ul className={styles.back}>
            <li>
              <Names returned={proof.returned} />
            </li>
            {proof.returned.values.map((one) => (
              <li key={one.space}>
                <Values of={one} />
              </li>
            ))}
          </ul>
          <p>
            Last charges, {writeMonth(proof.month)}: <b>{writeMoney(proof.lastCharges)}</b>
          </p>
        </div>
        <Button onPress={ask}>Ask again</Button>
      </header>
      {problem !== undefined && <p role="alert">{problem}</p>}
      <Panel title="Everything that was made for it" flush>
        <Table
          rows={proof.rows}
          columns={columns}
          idOf={(row) => row.ref}
          label="resources"
          empty={<Empty says="Nothing was ever made for it." />}
        />
      </Panel>
    </div>
  );
}

const TONE: Readonly<Record<ProofRow['says'], 'good' | 'plain' | 'bad'>> = {
  gone: 'good',
  kept: 'plain',
  'unknown to the provider': 'good',
  'still there': 'bad',
  'could not be asked': 'bad',
};

function titleOf({ clean, environment }: ProofOfGoing, kept: number): string {
  if (!clean) return `${environment} is not all gone`;
  return kept > 0 ? `Only kept data are left of ${environment}` : `Nothing is left of ${environment}`;
}

/** What the directory says of the computer names; that it could not be asked is no good news. */
function Names({ returned }: Pick<ProofOfGoing, 'returned'>) {
  const { directory, stillInDirectory, names } = returned;
  if (!directory.worked) return <Chip tone="bad">{directory.says}</Chip>;
  if (stillInDirectory.length > 0)
    return <Chip tone="bad">{stillInDirectory.join(', ')} still in the directory</Chip>;
  return <Chip tone="good">{count(names.length, 'name', 'names')} free again</Chip>;
}

/** So many are named; more are only counted. */
const MOST_NAMED = 3;

const MANY: Readonly<Record<string, string>> = { address: 'addresses' };

/** What was given back of one sort: `subnets 10.16.0.0/24, 10.16.1.0/24 given back`. */
function Values({
  of: { space, values, returned, shared },
}: {
  readonly of: ProofOfGoing['returned']['values'][number];
}) {
  const isNamed = values.length <= MOST_NAMED;
  const word = values.length === 1 ? space : (MANY[space] ?? `${space}s`);
  const held = shared ? 'serves another environment' : 'still held';
  return (
    <Chip tone={returned ? 'good' : shared ? 'plain' : 'bad'}>
      {isNamed ? `${word} ${values.join(', ')}` : `${values.length} ${word}`} {returned ? 'given back' : held}
    </Chip>
  );
}
