import type { Published } from '../../contract';
import { ArrowUp, Trash2 } from 'lucide-react';
import { CROSSINGS, ITEM_ICONS, SCREENS, type PublishedItem } from '../../core/intent';
import { crossesOf } from '../../core/items';
import { Button } from '../../ui/Button';
import { CheckField, ManyField, SelectField, TextField } from '../../ui/Field';
import { CROSSING_WORDS } from '../desk/words';
import { sooner, withField, withoutItem, type Draft, type PublishedPool } from './edit';
import styles from './Published.module.css';

interface Props {
  readonly draft: Draft;
  readonly item: PublishedItem;
  readonly pool: PublishedPool;
  readonly rules: Published['rules'];
  readonly faults: Readonly<Record<string, string>>;
  readonly mayChange: boolean;
  readonly onEdit: (draft: Draft) => void;
}

/** One item: its name, what it starts, where it stands, what crosses, and how large it is shown. */
export function ItemForm({ draft, item, pool, rules, faults, mayChange, onEdit }: Props) {
  const fault = (field: string): string | undefined => faults[`${draft.at}.${field}`];
  const set = <Key extends keyof PublishedItem>(key: Key, value: PublishedItem[Key] | undefined): void =>
    onEdit(withField(draft, key, value));
  return (
    <fieldset className={styles.form} disabled={!mayChange}>
      <TextField
        label="Name"
        value={item.name}
        maxLength={80}
        error={fault('name')}
        onChange={(event) => set('name', event.target.value)}
      />
      {item.kind === 'app' && (
        <>
          <TextField
            label="Starts"
            placeholder={item.name}
            help="a program on the image, or a path"
            list="programs-found"
            spellCheck={false}
            autoComplete="off"
            value={item.starts ?? ''}
            error={fault('starts')}
            onChange={(event) => set('starts', event.target.value)}
          />
          <datalist id="programs-found">
            {pool.found.map(({ name }) => (
              <option key={name} value={name} />
            ))}
          </datalist>
          <TextField
            label="Arguments"
            spellCheck={false}
            autoComplete="off"
            value={item.arguments ?? ''}
            error={fault('arguments')}
            onChange={(event) => set('arguments', event.target.value)}
          />
        </>
      )}
      <div className={styles.pair}>
        <TextField
          label="Under the heading"
          placeholder="none"
          value={item.folder ?? ''}
          error={fault('folder')}
          onChange={(event) => set('folder', event.target.value)}
        />
        {item.kind === 'app' && (
          <SelectField
            label="Picture"
            value={item.icon ?? ''}
            onChange={(event) =>
              set(
                'icon',
                ITEM_ICONS.find((one) => one === event.target.value),
              )
            }
          >
            <option value="">by its name</option>
            {ITEM_ICONS.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </SelectField>
        )}
      </div>
      <SelectField
        label="Shown"
        value={item.screen ?? ''}
        onChange={(event) =>
          set(
            'screen',
            SCREENS.find((one) => one === event.target.value),
          )
        }
      >
        <option value="">as usual: {rules.screen}</option>
        {SCREENS.map((one) => (
          <option key={one}>{one}</option>
        ))}
      </SelectField>
      <Crosses item={item} pool={pool} rules={rules} onChange={(crosses) => set('crosses', crosses)} />
      <CheckField
        label="Not shown on people’s desks"
        checked={item.hidden === true}
        onChange={(event) => set('hidden', event.target.checked)}
      />
      {mayChange && (
        <div className={styles.buttons}>
          <Button
            kind="quiet"
            icon={<ArrowUp size={15} aria-hidden="true" />}
            isDisabled={draft.at === 0}
            onPress={() => onEdit(sooner(draft))}
          >
            Sooner
          </Button>
          <Button
            kind="quiet"
            icon={<Trash2 size={15} aria-hidden="true" />}
            isDisabled={draft.items.length === 1}
            onPress={() => onEdit(withoutItem(draft, draft.at))}
          >
            Take it out
          </Button>
        </div>
      )}
    </fieldset>
  );
}

/** What may cross here, of what its pool lets cross; what its customer forbids is told. */
function Crosses({
  item,
  pool,
  rules,
  onChange,
}: Pick<Props, 'item' | 'pool' | 'rules'> & {
  readonly onChange: (crosses: PublishedItem['crosses']) => void;
}) {
  const inTheEnd = crossesOf(item, pool.crosses, rules.crosses);
  const forbidden = pool.crosses.filter((one) => !rules.crosses.includes(one));
  return (
    <>
      <ManyField
        label="May cross"
        options={CROSSINGS.filter((one) => pool.crosses.includes(one)).map((one) => ({
          value: one,
          name: CROSSING_WORDS[one],
        }))}
        chosen={item.crosses ?? pool.crosses}
        onChange={(chosen) => {
          const next = CROSSINGS.filter((one) => chosen.includes(one));
          onChange(next.length === pool.crosses.length ? undefined : next);
        }}
      />
      <p className={styles.quiet} role="status">
        In the end:{' '}
        {inTheEnd.length === 0 ? 'nothing' : inTheEnd.map((one) => CROSSING_WORDS[one]).join(', ')}
        {forbidden.length > 0 &&
          `. Not ${forbidden.map((one) => CROSSING_WORDS[one]).join(', ')}: the customer lets it cross nowhere`}
      </p>
    </>
  );
}
