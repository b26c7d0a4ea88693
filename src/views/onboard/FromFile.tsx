import { lazy, Suspense, useEffect, useState } from 'react';
import type { FileFault, FileOutcome } from '../../contract';
import { call, whyOf, newKey } from '../../client/api';
import { count } from '../../client/format';
import { Button } from '../../ui/Button';
import { Chip, type ChipTone } from '../../ui/Chip';
import { CountField } from '../shared/CountField';
import { useInBrowser } from '../shared/use-in-browser';
import { Panel } from '../../ui/Panel';
import { CUSTOMER_KEYS } from './keys';
import styles from './Onboard.module.css';

const Editor = lazy(() => import('../shared/YamlEditor'));

const TYPING_MS = 500;

const BEGINNING = `# yaml-language-server: $schema=/api/v1/customers.schema.json
customers:
  - code: ABC
    name: 
    state: trial
    plan: 
    site: 
    zone: Europe/Dublin
    currency: EUR
    card: 
`;

const TONE: Readonly<Record<FileOutcome['customers'][number]['outcome'], ChipTone>> = {
  new: 'good',
  changed: 'busy',
  same: 'quiet',
  refused: 'bad',
};

/** Many customers from one file: what comes of each is told as one writes, what is wrong at its line. */
export function FromFile() {
  const [text, setText] = useState(BEGINNING);
  const [outcome, setOutcome] = useState<FileOutcome>();
  const [problem, setProblem] = useState<string>();
  const [busy, setBusy] = useState(false);
  const [typed, setTyped] = useState('');
  // Sent again after an answer that was lost, the same text is taken in once.
  const [sent, setSent] = useState({ text: '', key: '' });
  const inBrowser = useInBrowser();
  const [shown, setShown] = useState<FileFault>();
  useEffect(() => {
    let ended = false;
    const timer = setTimeout(() => {
      ask(text, false).then(
        (answer) => {
          if (ended) return;
          setOutcome(answer);
          setProblem(undefined);
        },
        (error: unknown) => {
          if (!ended) setProblem(whyOf(error));
        },
      );
    }, TYPING_MS);
    return () => {
      ended = true;
      clearTimeout(timer);
    };
  }, [text]);
  const keep = async (): Promise<void> => {
    setBusy(true);
    const now = sent.text === text ? sent : { text, key: newKey() };
    setSent(now);
    try {
      setOutcome(await ask(text, true, now.key));
      setProblem(undefined);
    } catch (error) {
      setProblem(`${whyOf(error)} Send it again: a file is taken in whole or not at all.`);
    }
    setBusy(false);
  };
  const load = async (file: File | undefined): Promise<void> => {
    if (file) setText(await file.text());
  };
  const faults = outcome?.faults ?? [];
  const customers = outcome?.customers ?? [];
  const of = (what: string): number => customers.filter((one) => one.outcome === what).length;
  const todo = of('new') + of('changed');
  const isMany = todo > 1 && outcome?.kept !== true;
  return (
    <div className={styles.file}>
      <h1 className="sr">Customers from a file</h1>
      <Panel
        title="Customers as YAML"
        side={
          <label className={styles.open}>
            Open a file
            <input
              className="sr"
              type="file"
              accept=".yaml,.yml,application/yaml"
              onChange={(event) => void load(event.target.files?.[0])}
            />
          </label>
        }
      >
        <div className={styles.editor}>
          {inBrowser ? (
            <Suspense fallback={<p>Opening the editor …</p>}>
              <Editor
                text={text}
                onText={setText}
                faults={faults}
                shown={shown}
                keys={CUSTOMER_KEYS}
                label="Customers as YAML"
                height="560px"
              />
            </Suspense>
          ) : (
            <p>Opening the editor …</p>
          )}
        </div>
        <p className={styles.help}>
          What may stand here says <a href="/api/v1/customers.schema.json">its JSON Schema</a>; Ctrl Space
          completes.
        </p>
      </Panel>
      <div className={styles.outcome}>
        {faults.length > 0 && (
          <Panel title={count(faults.length, 'thing cannot be used', 'things cannot be used')}>
            <ul className={styles.faults}>
              {faults.map((fault) => (
                <li key={`${fault.line} ${fault.path} ${fault.says}`}>
                  <button type="button" onClick={() => setShown({ ...fault })}>
                    line {fault.line}: {fault.path.split('.').at(-1)} {fault.says}
                  </button>
                </li>
              ))}
            </ul>
          </Panel>
        )}
        <Panel title={outcome?.kept === true ? 'Done' : 'What will come of it'}>
          {customers.length === 0 ? (
            <p className={styles.help}>Each customer of the file, once it can be read.</p>
          ) : (
            <ul className={styles.outcomes}>
              {customers.map((one) => (
                <li key={one.code}>
                  <b>
                    {outcome?.kept === true ? <a href={`/customers/${one.code}`}>{one.code}</a> : one.code}
                  </b>
                  <Chip tone={TONE[one.outcome]}>{one.outcome}</Chip>
                  <span>{one.says === '' ? one.changed.join(', ') : one.says}</span>
                </li>
              ))}
            </ul>
          )}
        </Panel>
        {problem !== undefined && (
          <p role="alert" className={styles.problem}>
            {problem}
          </p>
        )}
        {isMany && <CountField count={todo} what="customers" value={typed} onValue={setTyped} />}
        <div className={styles.buttons}>
          <Button
            kind="main"
            isDisabled={
              busy ||
              faults.length > 0 ||
              todo === 0 ||
              outcome?.kept === true ||
              (isMany && typed.trim() !== String(todo))
            }
            onPress={() => void keep()}
          >
            {busy
              ? 'At work …'
              : `Take on ${of('new')}${of('changed') > 0 ? `, change ${of('changed')}` : ''}`}
          </Button>
        </div>
      </div>
    </div>
  );
}

const ask = (yaml: string, keep: boolean, key?: string): Promise<FileOutcome> =>
  call('POST', `/customers/file?keep=${keep ? 'all' : 'check'}`, {
    text: { body: yaml, type: 'application/yaml' },
    ...(key === undefined ? {} : { key }),
  });
