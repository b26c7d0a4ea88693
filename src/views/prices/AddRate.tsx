import { useState } from 'react';
import type { Card } from '../../contract';
import type { Rate } from '../../core/rating';
import { newKey, send } from '../../client/api';
import { checkedAs, dayOrNull, showRefusal, usePageForm } from '../../client/form';
import { writePrice, writeUnit } from '../../client/format';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { TextField } from '../../ui/Field';
import type { Priced } from './priced';
import styles from './Prices.module.css';

interface Fields {
  price: string;
  from: string;
}

/** Another price for one thing on one card, from a day. */
export function AddRate({
  card,
  thing,
  rate,
  name,
  now,
  onClose,
  onDone,
}: {
  readonly card: Card;
  readonly thing: Priced;
  readonly rate: Rate | undefined;
  readonly name: string;
  readonly now: number;
  readonly onClose: () => void;
  readonly onDone: () => void;
}) {
  const { register, handleSubmit, setError, formState } = usePageForm<
    Fields,
    { price: string; from: number | null }
  >({
    resolver: checkedAs(
      async () => (await import('../../contract/pricing')).rateFormSchema,
      ({ price, from }: Fields) => ({ price: price.trim(), from: dayOrNull(from) }),
    ),
  });
  const [problem, setProblem] = useState<string>();
  const submit = handleSubmit(async ({ price, from }) => {
    setProblem(undefined);
    const body = { ...thing, price, from: from ?? Math.floor(now / 1_000) * 1_000 };
    try {
      await send('POST', '/cards/{card}/rates', { card: card.code }, { body, key: newKey() });
      onDone();
    } catch (error) {
      setProblem(showRefusal(error, ['price', 'from'], setError));
    }
  });
  return (
    <Dialog
      open
      onClose={onClose}
      title={`${name} on ${card.name}`}
      actions={
        <>
          <Button onPress={onClose}>Back</Button>
          <Button kind="main" isDisabled={formState.isSubmitting} onPress={() => void submit()}>
            Set the price
          </Button>
        </>
      }
    >
      {rate && (
        <p className={styles.help}>
          It is {writePrice(rate.price, card.currency)} {writeUnit(rate.unit)}; what was used until the day
          stays at that.
        </p>
      )}
      <TextField
        label={`Price in ${card.currency} ${writeUnit(thing.unit)}`}
        inputMode="decimal"
        autoComplete="off"
        error={formState.errors.price?.message}
        {...register('price')}
      />
      <TextField
        label="From"
        type="date"
        help="left empty: from now on"
        error={formState.errors.from?.message}
        {...register('from')}
      />
      {problem !== undefined && (
        <p role="alert" className={styles.problem}>
          {problem}
        </p>
      )}
    </Dialog>
  );
}
