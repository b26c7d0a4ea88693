import { lazy, Suspense, useMemo, useState } from 'react';
import type { Fault } from '../../core/documents';
import { editedText } from '../../core/templates';
import { TERM_KEYS } from '../../core/terms';
import { Button } from '../../ui/Button';
import { useInBrowser } from '../shared/use-in-browser';
import type { YamlKeys } from '../shared/YamlEditor';
import { InputFields, PoolFields, WholeFields, type Edit } from './Fields';
import { Picture, type Part } from './Picture';
import { shownOf, textOf, type Shown } from './shown';
import styles from './Template.module.css';

const YamlEditor = lazy(() => import('../shared/YamlEditor'));

const KEYS: YamlKeys = {
  '': ['name', 'says', 'called', 'naming', 'atATime', 'failureLimit', 'tags', 'features', 'inputs', 'pools'],
  inputs: ['key', 'title', 'help', 'type', 'least', 'most', 'choices', 'usual', 'short'],
  pools: ['role', 'when', ...TERM_KEYS],
  items: ['name', 'kind', 'for', 'starts', 'arguments', 'folder', 'hidden', 'crosses', 'screen', 'icon'],
};

const SIGHTS = ['Picture', 'Form', 'Text'] as const;

interface Props {
  readonly text: string;
  readonly faults: readonly Fault[];
  readonly images: readonly string[];
  /** Undefined: it is looked at only. */
  readonly onText: ((text: string) => void) | undefined;
}

/** One template in three sights: as a picture whose parts are pressed, as a form, and as text. */
export function Editor({ text, faults, images, onText }: Props) {
  const [sight, setSight] = useState<(typeof SIGHTS)[number]>('Picture');
  const [part, setPart] = useState<Part>({ pool: 0 });
  const [fault, setFault] = useState<Fault>();
  const inBrowser = useInBrowser();
  const shown = useMemo(() => shownOf(text, faults), [text, faults]);
  const edit: Edit = (path, value) => onText?.(editedText(text, path, value));
  const show = (one: Fault): void => {
    setSight('Text');
    setFault({ ...one });
  };
  return (
    <>
      <div className={styles.sights} role="group" aria-label="How it is shown">
        {SIGHTS.map((one) => (
          <button key={one} type="button" aria-pressed={sight === one} onClick={() => setSight(one)}>
            {one}
          </button>
        ))}
      </div>
      {sight === 'Text' && (
        <>
          {inBrowser && (
            <Suspense fallback={<p>Opening the editor …</p>}>
              <YamlEditor
                text={text}
                onText={(next) => onText?.(next)}
                faults={faults}
                shown={fault}
                keys={KEYS}
                label="The template as YAML"
                height="560px"
              />
            </Suspense>
          )}
          <p className={styles.quiet}>
            What may stand here says <a href="/api/v1/templates.schema.json">its JSON Schema</a>; Ctrl Space
            completes.
          </p>
        </>
      )}
      {sight !== 'Text' && !shown && (
        <p>
          As it is written it can be shown as text alone: line {faults[0]?.line ?? 1}, {faults[0]?.says ?? ''}
          .
        </p>
      )}
      {sight === 'Picture' && shown && (
        <>
          <Picture
            shown={shown}
            part={part}
            {...(onText
              ? {
                  onPart: setPart,
                  onAddPool: () => {
                    edit(['pools', shown.pools.length], freshPool(shown, images));
                    setPart({ pool: shown.pools.length });
                  },
                  onAddInput: () => {
                    edit(['inputs', shown.inputs.length], freshInput(shown));
                    setPart({ input: shown.inputs.length });
                  },
                }
              : {})}
          />
          {onText && <PartFields key={keyOf(part)} shown={shown} edit={edit} part={part} images={images} />}
        </>
      )}
      {sight === 'Form' && shown && (
        <fieldset className={styles.form} disabled={!onText}>
          <h3>The environment</h3>
          <WholeFields shown={shown} edit={edit} />
          {shown.inputs.map((input, at) => (
            <section key={at}>
              <h3>asked: {textOf(input.title)}</h3>
              <InputFields shown={shown} edit={edit} at={at} />
            </section>
          ))}
          {shown.pools.map((pool, at) => (
            <section key={at}>
              <h3>pool {textOf(pool.role)}</h3>
              <PoolFields shown={shown} edit={edit} at={at} images={images} />
            </section>
          ))}
        </fieldset>
      )}
      {faults.length > 0 && (
        <ul className={styles.faults} aria-live="polite">
          {faults.slice(0, 6).map((one) => (
            <li key={`${one.line} ${one.path} ${one.says}`}>
              <Button kind="quiet" onPress={() => show(one)}>
                line {one.line}
              </Button>{' '}
              {one.path !== '' && <code>{one.path}</code>} {one.says}
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

const keyOf = (part: Part): string => JSON.stringify(part);

function PartFields({
  shown,
  edit,
  part,
  images,
}: {
  readonly shown: Shown;
  readonly edit: Edit;
  readonly part: Part;
  readonly images: readonly string[];
}) {
  if (part === 'whole') return <WholeFields shown={shown} edit={edit} />;
  if ('input' in part)
    return shown.inputs[part.input] ? <InputFields shown={shown} edit={edit} at={part.input} /> : null;
  return shown.pools[part.pool] ? (
    <PoolFields shown={shown} edit={edit} at={part.pool} images={images} />
  ) : null;
}

/** A name that no other has. */
function freeOf(taken: readonly unknown[], base: string): string {
  const names = [base, ...Array.from({ length: 60 }, (_, n) => `${base}-${n + 2}`)];
  return names.find((name) => !taken.includes(name)) ?? base;
}

const freshPool = ({ pools }: Shown, images: readonly string[]): Readonly<Record<string, unknown>> => ({
  role: freeOf(
    pools.map(({ role }) => role),
    'pool',
  ),
  image: textOf(pools[0]?.image) || (images[0] ?? ''),
  people: '=people',
});

const freshInput = ({ inputs }: Shown): Readonly<Record<string, unknown>> => ({
  key: freeOf(
    inputs.map(({ key }) => key),
    'input',
  ),
  title: 'How many?',
  type: 'count',
  most: 100,
  usual: 10,
});
