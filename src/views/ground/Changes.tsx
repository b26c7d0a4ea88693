import { Check, HandCoins } from 'lucide-react';
import { useState } from 'react';
import type { GroundChangeEntry, ProviderPricesView } from '../../contract';
import { get, newKey, send, whyOf } from '../../client/api';
import { dayOrNull } from '../../client/form';
import {
  count,
  writeDay,
  writeFigure,
  writeMoney,
  writePrice,
  writeUnit,
  writeWhen,
} from '../../client/format';
import { useLive } from '../../client/live';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { TextField } from '../../ui/Field';
import { Empty, Panel } from '../../ui/Panel';
import styles from './Changes.module.css';

interface Props {
  readonly changes: readonly GroundChangeEntry[];
  readonly prices: readonly ProviderPricesView[];
  /** What each size holds, by its key. */
  readonly sizes: Readonly<Record<string, string>>;
  readonly mayNote: boolean;
  readonly mayTake: boolean;
}

/** What is otherwise at the sites than it was, and what does it touch? */
export function Changes({ changes: first, prices: firstPrices, sizes, mayNote, mayTake }: Props) {
  const { value: changes, again } = useLive(
    { key: 'ground changes', read: async () => (await get('/ground/changes', {})).changes },
    first,
    '/events',
    (change) => change.topic === 'ground',
  );
  const { value: prices, again: askAgain } = useLive(
    { key: 'ground prices', read: async () => (await get('/ground/prices', {})).providers },
    firstPrices,
    '/events',
    (change) => change.topic === 'ground',
  );
  const [problem, setProblem] = useState<string>();
  const note = async (change: string): Promise<void> => {
    setProblem(undefined);
    try {
      await send('POST', '/ground/changes/{change}/noted', { change }, { key: newKey() });
    } catch (error) {
      setProblem(whyOf(error));
    }
    again();
  };
  return (
    <div className={styles.page}>
      <h1 className="sr">What changed</h1>
      {problem !== undefined && (
        <p role="alert" className={styles.problem}>
          {problem}
        </p>
      )}
      <Panel title="At the sites">
        {changes.length === 0 ? (
          <Empty says="All is as it was when it was last read, and nothing waits to be noted." />
        ) : (
          <ul className={styles.changes}>
            {changes.map((one) => (
              <li key={one.id}>
                <Chip tone={one.worse ? 'bad' : 'good'}>{one.kind}</Chip>
                <span>
                  <b>{one.subject === '' ? one.siteName : one.subject}</b>
                  <small>
                    {one.siteName}, {writeWhen(one.at, 'UTC')}
                    {one.before !== '' && `; was ${one.before}`}
                    {one.after !== '' && `; is ${one.after}`}
                  </small>
                </span>
                <span className={styles.touched}>
                  {one.hosts === 0 ? (
                    'touches no host'
                  ) : (
                    <>
                      {count(one.hosts, 'host', 'hosts')} of{' '}
                      {one.customers.slice(0, 6).map((code) => (
                        <a key={code} href={`/customers/${code}`}>
                          {code}
                        </a>
                      ))}
                      {one.customers.length > 6 && ` and ${one.customers.length - 6} more`}
                      {one.others > 0 && ` ${count(one.others, 'other customer', 'other customers')}`}
                    </>
                  )}
                </span>
                {mayNote && (
                  <Button
                    kind="quiet"
                    icon={<Check size={15} aria-hidden="true" />}
                    onPress={() => void note(one.id)}
                  >
                    Noted
                  </Button>
                )}
              </li>
            ))}
          </ul>
        )}
      </Panel>
      {prices.map((one) => (
        <Prices key={one.provider} provider={one} sizes={sizes} mayTake={mayTake} onTaken={askAgain} />
      ))}
    </div>
  );
}

const KIND_SAYS = {
  'price up': 'dearer',
  'price down': 'cheaper',
  'price new': 'new',
  'price gone': 'no longer asked',
  'price same': 'as in force',
} as const;

/** What one provider asks, beside what is in force; a lead takes it over, from a date. */
function Prices({
  provider,
  sizes,
  mayTake,
  onTaken,
}: {
  readonly provider: ProviderPricesView;
  readonly sizes: Props['sizes'];
  readonly mayTake: boolean;
  readonly onTaken: () => void;
}) {
  const [day, setDay] = useState('');
  const [problem, setProblem] = useState<string>();
  const { currency, prices, from, plannedFrom, monthly } = provider;
  const changed = prices.filter((one) => one.kind !== 'price same');
  const take = async (): Promise<void> => {
    setProblem(undefined);
    try {
      await send(
        'POST',
        '/providers/{provider}/prices',
        { provider: provider.provider },
        { body: { from: dayOrNull(day) }, key: newKey() },
      );
      setDay('');
      onTaken();
    } catch (error) {
      setProblem(whyOf(error));
    }
  };
  return (
    <Panel
      title={`What ${provider.name} asks`}
      side={
        <span className={styles.state}>
          {from === null ? (
            <Chip tone="care">none of it is in force</Chip>
          ) : changed.length === 0 ? (
            <Chip tone="good">in force since {writeDay(from, 'UTC')}</Chip>
          ) : (
            <Chip tone="care">
              {count(changed.length, 'price is', 'prices are')} otherwise
              {monthly !== null && monthly.minor !== 0 && `: ${monthlySays(monthly)} for what stands now`}
            </Chip>
          )}
          {plannedFrom !== null && <Chip tone="busy">others from {writeDay(plannedFrom, 'UTC')}</Chip>}
        </span>
      }
    >
      {!provider.toldAtAll ? (
        <p className={styles.help}>It has told no prices.</p>
      ) : (
        <table className={styles.prices}>
          <thead>
            <tr>
              <th scope="col">For</th>
              <th scope="col">In force</th>
              <th scope="col">It asks</th>
              <th scope="col" />
              <th scope="col">Stands now</th>
            </tr>
          </thead>
          <tbody>
            {prices.map((one) => (
              <tr key={`${one.meter} ${one.size ?? ''}`} data-kind={one.kind}>
                <th scope="row">
                  {one.meter} {one.size === null ? '' : (sizes[one.size] ?? one.size)}{' '}
                  <small>{writeUnit(one.unit)}</small>
                </th>
                <td>{one.inForce === null ? '–' : writePrice(one.inForce, currency)}</td>
                <td>{one.told === null ? '–' : writePrice(one.told, currency)}</td>
                <td>
                  {one.kind !== 'price same' && (
                    <Chip tone={one.kind === 'price up' || one.kind === 'price gone' ? 'care' : 'plain'}>
                      {KIND_SAYS[one.kind]}
                      {one.dearer !== null && ` by ${writeFigure(Math.abs(one.dearer) * 100)} %`}
                    </Chip>
                  )}
                </td>
                <td>{one.standing === 0 ? '–' : writeFigure(one.standing)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {mayTake && changed.length > 0 && (
        <div className={styles.take}>
          <TextField
            label="Take over from"
            type="date"
            help="left empty: from now on"
            value={day}
            onChange={(event) => setDay(event.target.value)}
          />
          <Button kind="main" icon={<HandCoins size={15} aria-hidden="true" />} onPress={() => void take()}>
            Take {count(changed.length, 'price', 'prices')} over
          </Button>
        </div>
      )}
      {problem !== undefined && (
        <p role="alert" className={styles.problem}>
          {problem}
        </p>
      )}
    </Panel>
  );
}

const monthlySays = ({ minor, currency }: { readonly minor: number; readonly currency: string }): string =>
  `${writeMoney({ minor: Math.abs(minor), currency })} a month ${minor > 0 ? 'more' : 'less'}`;
