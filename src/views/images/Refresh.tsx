import { useState } from 'react';
import { CalendarClock } from 'lucide-react';
import { useForm, useWatch } from 'react-hook-form';
import type { MadeImage } from '../../contract';
import { writeWhen } from '../../client/format';
import { Button } from '../../ui/Button';
import { SelectField, TextField } from '../../ui/Field';
import { Panel } from '../../ui/Panel';
import type { Changing } from '../shared/changing';
import styles from './Images.module.css';

interface Props {
  readonly image: MadeImage;
  /** Whose public holidays are known. */
  readonly countries: readonly { readonly code: string; readonly name: string }[];
  readonly ask: ((change: Changing) => void) | undefined;
}

/** Rules that are asked for most; any other of RFC 5545 is written. */
const USUAL = [
  { rule: 'FREQ=MONTHLY;BYDAY=2TU', says: 'the second Tuesday of a month' },
  { rule: 'FREQ=MONTHLY;BYDAY=1MO', says: 'the first Monday of a month' },
  { rule: 'FREQ=MONTHLY;BYMONTHDAY=1', says: 'the first of a month' },
  { rule: 'FREQ=WEEKLY;BYDAY=SA', says: 'every Saturday' },
] as const;

const FIRST = {
  rule: USUAL[0].rule as string,
  after: 4,
  time: '06:00',
  zone: 'Europe/Dublin',
  country: 'IE',
};

/** When it is built anew by itself, and the next times of that. */
export function Refresh({ image, countries, ask }: Props) {
  const { refresh } = image;
  const [editing, setEditing] = useState(false);
  return (
    <Panel
      title="Built anew"
      side={
        ask &&
        !editing && (
          <Button icon={<CalendarClock size={15} aria-hidden="true" />} onPress={() => setEditing(true)}>
            {refresh ? 'Change the rule' : 'By a rule'}
          </Button>
        )
      }
    >
      {editing && ask ? (
        <Form image={image} countries={countries} ask={ask} onClose={() => setEditing(false)} />
      ) : refresh ? (
        <div className={styles.facts}>
          <p className={styles.says}>
            {refresh.after === 0 ? 'On' : `${refresh.after} days after`} {wordsOf(refresh.rule)}, at{' '}
            {refresh.time} in {refresh.zone}
            {refresh.country !== '' && `, not on public holidays of ${refresh.country}`}. It is built, pilots
            try it, and someone makes it current.
          </p>
          <ul className={styles.list}>
            {refresh.next.map((at) => (
              <li key={at}>
                <span>{writeWhen(at, refresh.zone)}</span>
              </li>
            ))}
          </ul>
          <a href={refresh.calendar}>As a calendar (its address is its key)</a>
        </div>
      ) : (
        <p className={styles.none}>Only when someone builds it.</p>
      )}
    </Panel>
  );
}

const wordsOf = (rule: string): string => USUAL.find((one) => one.rule === rule)?.says ?? rule;

function Form({
  image,
  countries,
  ask,
  onClose,
}: Props & { readonly ask: (change: Changing) => void; readonly onClose: () => void }) {
  const {
    next: _next,
    calendar: _calendar,
    ...before
  } = image.refresh ?? { ...FIRST, next: [], calendar: '' };
  const { register, handleSubmit, setValue, control } = useForm({ defaultValues: before });
  const rule = useWatch({ control, name: 'rule' });
  const change = (refresh: typeof before | null): void => {
    ask({
      kind: 'refresh-by-rule',
      verb: refresh ? 'Refresh' : 'No more refresh',
      what: image.name,
      input: { refresh: refresh && { ...refresh, after: Number(refresh.after) } },
      done: onClose,
    });
  };
  return (
    <form className={styles.form} onSubmit={(event) => void handleSubmit(change)(event)}>
      <div className={styles.pair}>
        <SelectField
          label="The vendor's day"
          value={USUAL.some((one) => one.rule === rule) ? rule : ''}
          onChange={(event) => event.target.value !== '' && setValue('rule', event.target.value)}
        >
          {USUAL.map((one) => (
            <option key={one.rule} value={one.rule}>
              {one.says}
            </option>
          ))}
          <option value="">another, as written</option>
        </SelectField>
        <TextField label="As a rule" help="RFC 5545" spellCheck={false} {...register('rule')} />
      </div>
      <div className={styles.pair}>
        <TextField label="Days after it" inputMode="numeric" {...register('after')} />
        <TextField label="At" {...register('time')} />
        <TextField label="Zone" spellCheck={false} {...register('zone')} />
        <SelectField label="Not on holidays of" {...register('country')}>
          <option value="">nobody</option>
          {countries.map((one) => (
            <option key={one.code} value={one.code}>
              {one.name}
            </option>
          ))}
        </SelectField>
      </div>
      <div className={styles.actions}>
        <Button onPress={onClose}>Back</Button>
        {image.refresh && <Button onPress={() => change(null)}>No more by rule…</Button>}
        <Button kind="main" type="submit">
          Refresh by it…
        </Button>
      </div>
    </form>
  );
}
