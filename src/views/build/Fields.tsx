import { INPUT_TYPES, FEATURES, OWN_INPUTS } from '../../core/templates';
import type { Path } from '../../core/documents';
import { TERM_KEYS, type TermKey } from '../../core/terms';
import { Button } from '../../ui/Button';
import { CheckField, ManyField, SelectField, TextField } from '../../ui/Field';
import { TermField } from '../shared/TermField';
import { INPUT_SAYS, termOf, textOf, usualOf, writtenTerm, type Shown } from './shown';
import styles from './Template.module.css';

/** Puts something at a path of the text; undefined: takes it out. */
export type Edit = (path: Path, value: unknown) => void;

interface Props {
  readonly shown: Shown;
  readonly edit: Edit;
}

const numberOr = (typed: string): unknown =>
  typed.trim() === '' || Number.isNaN(Number(typed)) ? typed : Number(typed);

/** What is said of the environment as a whole. */
export function WholeFields({ shown, edit }: Props) {
  const text = (key: string, label: string, usual: string, help?: string) => (
    <TextField
      key={key}
      label={label}
      value={textOf(shown.at([key]) ?? usual)}
      autoComplete="off"
      error={shown.faultAt([key])}
      {...(help === undefined ? {} : { help })}
      onChange={(event) => edit([key], event.target.value === usual ? undefined : event.target.value)}
    />
  );
  const figure = (key: string, label: string, usual: number) => (
    <TextField
      key={key}
      label={label}
      inputMode="numeric"
      value={textOf(shown.at([key]) ?? usual)}
      error={shown.faultAt([key])}
      onChange={(event) =>
        edit([key], event.target.value === String(usual) ? undefined : numberOr(event.target.value))
      }
    />
  );
  const features = shown.at(['features']);
  return (
    <div className={styles.fields}>
      {text('name', 'Name', '')}
      {text('says', 'What it is for', '')}
      {text('called', 'Environments are called', 'office', 'where nobody says otherwise')}
      {text('naming', 'Names of hosts', '', '{customer} {environment} {site} {role} {counter:2}')}
      {figure('atATime', 'Steps at a time', 5)}
      {figure('failureLimit', 'Failures that stop a run', 2)}
      <ManyField
        label="The plan has"
        options={FEATURES.map((one) => ({ value: one, name: one }))}
        chosen={Array.isArray(features) ? features.map(String) : []}
        onChange={(chosen) => edit(['features'], chosen.length === 0 ? undefined : chosen)}
      />
      <TextField
        label="Tags"
        help="like use: studio, floor: 2; =key for what an input says"
        autoComplete="off"
        defaultValue={tagsSay(shown.at(['tags']))}
        error={shown.faultAt(['tags'])}
        onBlur={(event) => edit(['tags'], tagsOf(event.target.value))}
      />
    </div>
  );
}

const tagsSay = (tags: unknown): string =>
  typeof tags === 'object' && tags !== null
    ? Object.entries(tags)
        .map(([key, value]) => `${key}: ${textOf(value)}`)
        .join(', ')
    : '';

function tagsOf(typed: string): Readonly<Record<string, string>> | undefined {
  const pairs = typed
    .split(',')
    .map((one) => one.split(':').map((part) => part.trim()))
    .filter(([key]) => key !== '');
  return pairs.length === 0
    ? undefined
    : Object.fromEntries(pairs.map(([key = '', value = '']) => [key, value]));
}

/** What is asked of each customer. */
export function InputFields({ shown, edit, at }: Props & { readonly at: number }) {
  const input = shown.inputs[at] ?? {};
  const path = (key: string): Path => ['inputs', at, key];
  const type = INPUT_TYPES.find((one) => one === input.type) ?? 'count';
  const text = (key: string, label: string, help?: string) => (
    <TextField
      label={label}
      value={textOf(input[key])}
      autoComplete="off"
      error={shown.faultAt(path(key))}
      {...(help === undefined ? {} : { help })}
      onChange={(event) => edit(path(key), event.target.value)}
    />
  );
  const figure = (key: string, label: string, usual = '0') => (
    <TextField
      label={label}
      inputMode="numeric"
      placeholder={usual}
      value={textOf(input[key])}
      error={shown.faultAt(path(key))}
      onChange={(event) => edit(path(key), numberOr(event.target.value))}
    />
  );
  return (
    <div className={styles.fields}>
      {text('title', 'What is asked')}
      {text('key', 'Referred to as', 'a term says =key')}
      <SelectField
        label="Answered by"
        value={type}
        onChange={(event) => edit(['inputs', at], freshInput(input, event.target.value))}
      >
        {INPUT_TYPES.map((one) => (
          <option key={one} value={one}>
            {INPUT_SAYS[one]}
          </option>
        ))}
      </SelectField>
      {type === 'count' && figure('least', 'Least')}
      {type === 'count' && figure('most', 'Most')}
      {type === 'count' && figure('usual', 'Usually')}
      {type === 'choice' && (
        <TextField
          label="Choices"
          help="one after the other, with commas"
          defaultValue={Array.isArray(input.choices) ? input.choices.map(textOf).join(', ') : ''}
          error={shown.faultAt(path('choices'))}
          onBlur={(event) =>
            edit(
              path('choices'),
              event.target.value
                .split(',')
                .map((one) => one.trim())
                .filter((one) => one !== ''),
            )
          }
        />
      )}
      {type === 'text' && figure('most', 'Characters at most', '80')}
      {(type === 'choice' || type === 'text') && text('usual', 'Usually')}
      {type === 'yes' && (
        <CheckField
          label="Usually yes"
          checked={input.usual === true}
          onChange={(event) => edit(path('usual'), event.target.checked)}
        />
      )}
      {text('help', 'Help, in one line')}
      <CheckField
        label="In the short form"
        checked={input.short === true}
        error={shown.faultAt(path('short'))}
        onChange={(event) => edit(path('short'), event.target.checked ? true : undefined)}
      />
      <div>
        <Button onPress={() => edit(['inputs', at], undefined)}>Ask it no more</Button>
      </div>
    </div>
  );
}

/** An input of another type: what does not belong to it is left out. */
function freshInput(input: Shown['inputs'][number], type: string): Readonly<Record<string, unknown>> {
  const { key, title, help, short } = input;
  const kept = { key, title, type, ...(help ? { help } : {}), ...(short === true ? { short } : {}) };
  if (type === 'count') return { ...kept, most: 100, usual: 10 };
  if (type === 'choice') return { ...kept, choices: ['one', 'another'], usual: 'one' };
  if (type === 'group') return kept;
  return type === 'text' ? kept : { ...kept, usual: false };
}

const PERSONAL: ReadonlySet<TermKey> = new Set<TermKey>(['arrival', 'concurrency', 'mostSeats', 'spare']);

/** What is said of one pool, term by term. */
export function PoolFields({
  shown,
  edit,
  at,
  images,
}: Props & { readonly at: number; readonly images: readonly string[] }) {
  const pool = shown.pools[at] ?? {};
  const yes = shown.inputs.filter(({ type }) => type === 'yes');
  return (
    <div className={styles.fields}>
      <TextField
        label="Name of the pool"
        value={textOf(pool.role)}
        autoComplete="off"
        error={shown.faultAt(['pools', at, 'role'])}
        onChange={(event) => edit(['pools', at, 'role'], event.target.value)}
      />
      {TERM_KEYS.filter((term) => pool.kind !== 'personal' || !PERSONAL.has(term)).map((term) => (
        <TermField
          key={term}
          term={term}
          value={termOf(pool, term)}
          groups={groupsOf(shown)}
          options={term === 'image' ? [...images, ...choicesFor(shown)] : undefined}
          error={shown.faultAt(['pools', at, term])}
          onChange={(value) =>
            edit(
              ['pools', at, term],
              JSON.stringify(value) === JSON.stringify(usualOf(pool, term))
                ? undefined
                : writtenTerm(term, value),
            )
          }
        />
      ))}
      {yes.length > 0 && (
        <SelectField
          label="Made"
          value={textOf(pool.when)}
          error={shown.faultAt(['pools', at, 'when'])}
          onChange={(event) =>
            edit(['pools', at, 'when'], event.target.value === '' ? undefined : event.target.value)
          }
        >
          <option value="">always</option>
          {yes.map(({ key, title }) => (
            <option key={textOf(key)} value={`=${textOf(key)}`}>
              only if “{textOf(title)}”
            </option>
          ))}
        </SelectField>
      )}
      {shown.pools.length > 1 && (
        <div>
          <Button onPress={() => edit(['pools', at], undefined)}>Take the pool out</Button>
        </div>
      )}
    </div>
  );
}

/** Inputs that name a group, each as an item says it. */
const groupsOf = ({ inputs }: Shown): { readonly value: string; readonly name: string }[] =>
  inputs
    .filter(({ type }) => type === 'group')
    .map(({ key, title }) => ({ value: `=${textOf(key)}`, name: `for ${textOf(title)}` }));

/** Inputs that may name an image. */
const choicesFor = ({ inputs }: Shown): string[] =>
  inputs.flatMap(({ key, type }) =>
    type === 'choice' && !OWN_INPUTS.some((own) => own === key) ? [`=${textOf(key)}`] : [],
  );
