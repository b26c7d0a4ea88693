import { useState } from 'react';
import { useWatch } from 'react-hook-form';
import type { Card, NewCard, ProviderPricesView } from '../../contract';
import { markedUp, METERED, type Rate } from '../../core/rating';
import { newKey, send } from '../../client/api';
import { checkedAs, showRefusal, usePageForm } from '../../client/form';
import { count, writePrice, writeUnit } from '../../client/format';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { SelectField, TextField } from '../../ui/Field';
import styles from './Prices.module.css';

interface Fields {
  code: string;
  name: string;
  currency: string;
  base: string;
  percent: string;
}

type Asked = Pick<Rate, 'meter' | 'size' | 'unit' | 'price'>;

interface Base {
  readonly key: string;
  readonly name: string;
  readonly currency: string;
  readonly rates: readonly Asked[];
}

/** Makes a rate card: on what we pay, or on another card, so many per cent. */
export function MakeCard({
  cards,
  providers,
  now,
  onClose,
  onDone,
}: {
  readonly cards: readonly Card[];
  readonly providers: readonly ProviderPricesView[];
  readonly now: number;
  readonly onClose: () => void;
  readonly onDone: () => void;
}) {
  const bases = basesOf(cards, providers, now);
  const { register, handleSubmit, setError, control, formState } = usePageForm<Fields, NewCard>({
    defaultValues: {
      code: '',
      name: '',
      currency: bases[0]?.currency ?? 'EUR',
      base: bases[0]?.key ?? '',
      percent: '40',
    },
    resolver: checkedAs<Fields, NewCard>(
      async () => (await import('../../contract/pricing')).newCardSchema,
      (typed) => ({
        code: typed.code.trim(),
        name: typed.name,
        currency: typed.currency.trim().toUpperCase(),
        rates: ratesFor(bases, typed, now),
      }),
    ),
  });
  const typed = useWatch({ control }) as Fields;
  const rates = ratesFor(bases, typed, now);
  const without = METERED.flatMap(({ meter }) => (rates.some((one) => one.meter === meter) ? [] : meter));
  const [problem, setProblem] = useState<string>();
  const { errors } = formState;
  const submit = handleSubmit(async (body) => {
    setProblem(undefined);
    try {
      await send('POST', '/cards', {}, { body, key: newKey() });
      onDone();
    } catch (error) {
      setProblem(showRefusal(error, ['code', 'name', 'currency'], setError));
    }
  });
  return (
    <Dialog
      open
      onClose={onClose}
      title="Make a rate card"
      actions={
        <>
          <Button onPress={onClose}>Back</Button>
          <Button kind="main" isDisabled={formState.isSubmitting} onPress={() => void submit()}>
            Make it with {count(rates.length, 'rate', 'rates')}
          </Button>
        </>
      }
    >
      <div className={styles.pair}>
        <TextField
          label="Code"
          autoComplete="off"
          spellCheck={false}
          error={errors.code?.message}
          {...register('code')}
        />
        <TextField label="Name" autoComplete="off" error={errors.name?.message} {...register('name')} />
        <TextField
          label="Currency"
          autoComplete="off"
          help="three letters, as EUR"
          error={errors.currency?.message}
          {...register('currency')}
        />
        <SelectField label="Begins with" {...register('base')}>
          {bases.map((one) => (
            <option key={one.key} value={one.key}>
              {one.name}
            </option>
          ))}
          <option value="">no rates</option>
        </SelectField>
        <TextField
          label="And so many per cent on it"
          inputMode="decimal"
          autoComplete="off"
          help="its numbers, whatever their currency was"
          {...register('percent')}
        />
      </div>
      {rates.length > 0 && (
        <ul className={styles.preview}>
          {rates.map((rate) => (
            <li key={`${rate.meter} ${rate.size ?? ''}`}>
              <span>
                {rate.meter} {rate.size ?? ''} <small>{writeUnit(rate.unit)}</small>
              </span>
              <b>{priceSays(rate.price, typed.currency)}</b>
            </li>
          ))}
        </ul>
      )}
      {without.length > 0 && (
        <p className={styles.help}>
          Without a price on it: {without.join(', ')}. Set {without.length === 1 ? 'it' : 'them'} on the card:
          what needs {without.length === 1 ? 'it' : 'them'} is not built before.
        </p>
      )}
      {problem !== undefined && (
        <p role="alert" className={styles.problem}>
          {problem}
        </p>
      )}
    </Dialog>
  );
}

const priceSays = (price: string, currency: string): string =>
  /^[A-Za-z]{3}$/.test(currency.trim()) ? writePrice(price, currency.trim().toUpperCase()) : price;

function basesOf(cards: readonly Card[], providers: readonly ProviderPricesView[], now: number): Base[] {
  return [
    ...providers.map(({ provider, name, currency, prices }) => ({
      key: `provider ${provider}`,
      name: `what ${name} asks, in ${currency}`,
      currency,
      rates: prices.flatMap(({ meter, size, unit, inForce }) =>
        inForce === null ? [] : [{ meter, size, unit, price: inForce }],
      ),
    })),
    ...cards.map(({ code, name, currency, rates }) => ({
      key: `card ${code}`,
      name: `${name}, in ${currency}`,
      currency,
      rates: rates.filter(({ from, to }) => from <= now && (to === null || now < to)),
    })),
  ].filter((one) => one.rates.length > 0);
}

function ratesFor(bases: readonly Base[], { base, percent }: Fields, now: number): Rate[] {
  const by = Number(percent.trim() === '' ? 0 : percent);
  if (!(by >= -100 && by < 100_000)) return [];
  const from = Math.floor(now / 1_000) * 1_000;
  const rates = bases.find((one) => one.key === base)?.rates ?? [];
  return rates.map(({ meter, size, unit, price }) => ({
    meter,
    size,
    unit,
    price: markedUp(price, by),
    from,
    to: null,
  }));
}
