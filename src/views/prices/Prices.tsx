import { Plus } from 'lucide-react';
import { useState } from 'react';
import type { Card, ProviderPricesView } from '../../contract';
import { writeSize, type MachineSize } from '../../core/machines';
import { marginOf, METERED, rateFor, type Rate } from '../../core/rating';
import { get } from '../../client/api';
import { count, writeDay, writePrice, writeUnit } from '../../client/format';
import { useLive } from '../../client/live';
import { Button } from '../../ui/Button';
import { Empty, Panel } from '../../ui/Panel';
import { AddRate } from './AddRate';
import { MakeCard } from './MakeCard';
import type { Priced } from './priced';
import styles from './Prices.module.css';

interface Props {
  readonly initial: readonly Card[];
  readonly providers: readonly ProviderPricesView[];
  /** The sizes that sites have, the smallest first. */
  readonly sizes: readonly MachineSize[];
  readonly now: number;
  readonly mayKeep: boolean;
}

const keyOf = ({ meter, size }: Priced): string => `${meter} ${size ?? ''}`;

/** What do we charge, and what is left of it? */
export function Prices({ initial, providers, sizes, now, mayKeep }: Props) {
  const { value: cards, again } = useLive(
    { key: 'cards', read: async () => (await get('/cards', {})).cards },
    initial,
    '/events',
    (change) => change.topic === 'ground',
  );
  const [making, setMaking] = useState(false);
  const [changing, setChanging] = useState<{
    readonly card: Card;
    readonly thing: Priced;
    readonly rate: Rate | undefined;
  }>();
  // Also what nobody sells to us: without a price of ours, nothing that needs it is built.
  const known: readonly Priced[] = [
    ...providers.flatMap((one) => one.prices),
    ...cards.flatMap((card) => card.rates),
    ...METERED.filter(({ bySize }) => !bySize).map((one) => ({ ...one, size: null })),
  ];
  const things = [
    ...new Map(
      known.map(({ meter, size, unit }) => [keyOf({ meter, size, unit }), { meter, size, unit }]),
    ).values(),
  ].sort(byMeter(sizes));
  const nameOf = ({ meter, size }: Priced): string => {
    const known = sizes.find((one) => one.key === size);
    return size === null ? meter : `${meter} ${known ? writeSize(known) : size}`;
  };
  return (
    <div className={styles.page}>
      <h1 className="sr">Prices</h1>
      <Panel
        title={count(cards.length, 'rate card', 'rate cards')}
        side={
          mayKeep && (
            <Button icon={<Plus size={15} aria-hidden="true" />} onPress={() => setMaking(true)}>
              Make a card
            </Button>
          )
        }
        flush
      >
        {cards.length === 0 ? (
          <Empty says="Nothing has a price yet: a card says what is charged, in one currency." />
        ) : (
          <div className={styles.frame} tabIndex={0} role="region" aria-label="Rate cards side by side">
            <table className={styles.prices}>
              <thead>
                <tr>
                  <td />
                  {providers.map((one) => (
                    <th key={one.provider} scope="col">
                      {one.name}
                      <small>we pay, in {one.currency || '–'}</small>
                    </th>
                  ))}
                  {cards.map((card) => (
                    <th key={card.code} scope="col" className={styles.sell}>
                      {card.name}
                      <small>
                        {card.code}, in {card.currency}
                      </small>
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {things.map((thing) => (
                  <tr key={keyOf(thing)}>
                    <th scope="row">
                      {nameOf(thing)} <small>{writeUnit(thing.unit)}</small>
                    </th>
                    {providers.map((one) => {
                      const buy = one.prices.find((price) => keyOf(price) === keyOf(thing))?.inForce;
                      return (
                        <td key={one.provider}>
                          {buy === undefined || buy === null ? '–' : writePrice(buy, one.currency)}
                        </td>
                      );
                    })}
                    {cards.map((card) => {
                      const rate = rateFor(card.rates, thing.meter, thing.size, now);
                      const next = card.rates.find((one) => keyOf(one) === keyOf(thing) && one.from > now);
                      return (
                        <td key={card.code} className={styles.sell}>
                          <Cell
                            rate={rate}
                            next={next}
                            currency={card.currency}
                            margin={marginFor(rate, thing, card.currency, providers)}
                          />
                          {mayKeep && (
                            <Button
                              kind="quiet"
                              aria-label={`Change ${nameOf(thing)} on ${card.name}`}
                              onPress={() => setChanging({ card, thing, rate })}
                            >
                              {rate ? 'Change' : 'Set'}
                            </Button>
                          )}
                        </td>
                      );
                    })}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        )}
      </Panel>
      {making && (
        <MakeCard
          cards={cards}
          providers={providers}
          now={now}
          onClose={() => setMaking(false)}
          onDone={() => {
            setMaking(false);
            again();
          }}
        />
      )}
      {changing && (
        <AddRate
          {...changing}
          name={nameOf(changing.thing)}
          now={now}
          onClose={() => setChanging(undefined)}
          onDone={() => {
            setChanging(undefined);
            again();
          }}
        />
      )}
    </div>
  );
}

const ORDER = METERED.map(({ meter }) => meter);
const byMeter =
  (sizes: readonly MachineSize[]) =>
  (a: Priced, b: Priced): number => {
    const place = ({ size }: Priced): number => sizes.findIndex((one) => one.key === size);
    return (
      ORDER.indexOf(a.meter) - ORDER.indexOf(b.meter) ||
      place(a) - place(b) ||
      keyOf(a).localeCompare(keyOf(b), 'en')
    );
  };

/** The least that is left at any provider that sells it in the card's currency. */
function marginFor(
  rate: Rate | undefined,
  thing: Priced,
  currency: string,
  providers: readonly ProviderPricesView[],
): number | undefined {
  if (!rate) return undefined;
  const margins = providers.flatMap((one) => {
    const buy = one.prices.find((price) => keyOf(price) === keyOf(thing))?.inForce;
    if (one.currency !== currency || buy === undefined || buy === null) return [];
    return marginOf(rate.price, buy) ?? [];
  });
  return margins.length === 0 ? undefined : Math.min(...margins);
}

function Cell({
  rate,
  next,
  currency,
  margin,
}: {
  readonly rate: Rate | undefined;
  readonly next: Rate | undefined;
  readonly currency: string;
  readonly margin: number | undefined;
}) {
  return (
    <span className={styles.cell}>
      <b>{rate ? writePrice(rate.price, currency) : 'no rate'}</b>
      {margin !== undefined && (
        <small data-loss={margin < 0 || undefined}>{Math.round(margin * 100)} % left</small>
      )}
      {next && (
        <small>
          {writePrice(next.price, currency)} from {writeDay(next.from, 'UTC')}
        </small>
      )}
    </span>
  );
}
