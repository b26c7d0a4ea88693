import { useState } from 'react';
import type { TemplateFile } from '../../contract';
import { call, newKey, whyOf } from '../../client/api';
import { Button } from '../../ui/Button';
import { Chip, type ChipTone } from '../../ui/Chip';
import { SelectField } from '../../ui/Field';
import { FilePick } from '../../ui/FilePick';
import { Panel } from '../../ui/Panel';
import styles from './Template.module.css';

const TONE: Readonly<Record<string, ChipTone>> = {
  new: 'good',
  newer: 'busy',
  same: 'quiet',
  here: 'quiet',
  begun: 'good',
  missing: 'care',
};

const ask = (text: string, keep: boolean, site: string, key: string): Promise<TemplateFile> =>
  call('POST', `/templates/file?keep=${keep ? 'all' : 'check'}&site=${encodeURIComponent(site)}`, {
    text: { body: text, type: 'application/yaml' },
    // Only what is kept has a key: sent again after an answer that was lost, it is taken in once.
    ...(keep ? { key } : {}),
  });

/** Templates that were written elsewhere, with the images that they refer to. */
export function FromFile({
  sites,
}: {
  readonly sites: readonly { readonly code: string; readonly name: string }[];
}) {
  const [file, setFile] = useState<{ readonly name: string; readonly text: string }>();
  const [key, setKey] = useState(newKey);
  const [site, setSite] = useState('');
  const [outcome, setOutcome] = useState<TemplateFile>();
  const [problem, setProblem] = useState<string>();
  const act = async (next: string, keep: boolean): Promise<void> => {
    setProblem(undefined);
    try {
      setOutcome(await ask(next, keep, site, key));
    } catch (error) {
      setProblem(whyOf(error));
    }
  };
  const load = async (chosen: File): Promise<void> => {
    const next = { name: chosen.name, text: await chosen.text() };
    setFile(next);
    setKey(newKey());
    setOutcome(undefined);
    await act(next.text, false);
  };
  const canBegin = outcome?.images.some(({ says }) => says === 'can be begun from the file') === true;
  const isDone = outcome?.kept === true;
  return (
    <Panel title="Templates from a file">
      <div className={styles.card}>
        <FilePick
          label="Choose a file that was exported"
          help="templates as YAML, with the images that they refer to; nothing is kept before you say so"
          name={file?.name}
          accept=".yaml,.yml,application/yaml"
          onChoose={(chosen) => void load(chosen)}
        />
        {outcome && outcome.faults.length > 0 && (
          <ul className={styles.faults}>
            {outcome.faults.slice(0, 8).map((one) => (
              <li key={`${one.line} ${one.says}`}>
                line {one.line}: <code>{one.path}</code> {one.says}
              </li>
            ))}
          </ul>
        )}
        {outcome && outcome.faults.length === 0 && (
          <ul className={styles.changes}>
            {outcome.templates.map(({ code, outcome: what, revision }) => (
              <li key={code}>
                <span>
                  {what === 'new' && !isDone ? (
                    <b>{code}</b>
                  ) : (
                    <a href={`/build/templates/${code}`}>{code}</a>
                  )}{' '}
                  <Chip tone={TONE[what] ?? 'quiet'}>
                    {what === 'same' ? 'the same' : `revision ${revision}`}
                  </Chip>
                </span>
              </li>
            ))}
            {outcome.images.map(({ code, outcome: what, says }) => (
              <li key={code}>
                <span>
                  image {code} <Chip tone={TONE[what] ?? 'quiet'}>{what}</Chip> {says}
                </span>
              </li>
            ))}
          </ul>
        )}
        {canBegin && !isDone && (
          <SelectField
            label="Begin the images that are not here at"
            value={site}
            onChange={(event) => {
              setSite(event.target.value);
              setKey(newKey());
            }}
          >
            <option value="">nowhere yet</option>
            {sites.map((one) => (
              <option key={one.code} value={one.code}>
                {one.name}
              </option>
            ))}
          </SelectField>
        )}
        {problem !== undefined && <p role="alert">{problem}</p>}
        {file && outcome?.faults.length === 0 && !isDone && (
          <div>
            <Button kind="main" onPress={() => void act(file.text, true)}>
              Take them in
            </Button>
          </div>
        )}
        {isDone && (
          <p>
            Taken in. {outcome.templates.length > 0 && <a href="/build">Look at the templates</a>}{' '}
            {outcome.run !== null && <a href={`/runs/${outcome.run}`}>The run that begins the images</a>}
          </p>
        )}
      </div>
    </Panel>
  );
}
