import type { ImportOutcome } from '../../contract';
import { useState } from 'react';
import { newKey, send, whyOf } from '../../client/api';
import { count } from '../../client/format';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { FilePick } from '../../ui/FilePick';
import { Panel } from '../../ui/Panel';
import styles from './People.module.css';

interface ChosenFile {
  readonly name: string;
  readonly text: string;
}

/** Imports people from a file. Bad rows are listed by line; the good ones are kept only if the person says so. */
export function Import({ code, onDone }: { readonly code: string; readonly onDone: () => void }) {
  const [file, setFile] = useState<ChosenFile>();
  const [outcome, setOutcome] = useState<ImportOutcome>();
  const [problem, setProblem] = useState<string>();
  const [busy, setBusy] = useState(false);
  const sendFile = async (chosen: ChosenFile, keep: 'all' | 'good'): Promise<void> => {
    setBusy(true);
    setProblem(undefined);
    try {
      const answer = await send(
        'POST',
        '/customers/{customer}/people/import',
        { customer: code },
        {
          query: { keep },
          csv: chosen.text,
          key: newKey(),
        },
      );
      setOutcome(answer);
      if (answer.kept) onDone();
    } catch (error) {
      setProblem(whyOf(error));
    } finally {
      setBusy(false);
    }
  };
  const choose = async (chosen: File): Promise<void> => {
    const next = { name: chosen.name, text: await chosen.text() };
    setFile(next);
    setOutcome(undefined);
    await sendFile(next, 'all');
  };
  return (
    <Panel title="Import people">
      <div className={styles.import}>
        <FilePick
          label="Choose a CSV or LDIF file"
          help="columns: account, given, family, mail"
          name={file?.name}
          accept=".csv,.ldif,text/csv"
          isDisabled={busy}
          onChoose={(chosen) => void choose(chosen)}
        />
        {problem !== undefined && (
          <p role="alert" className={styles.problem}>
            {problem}
          </p>
        )}
        {outcome && (
          <div role="status" className={styles.outcome}>
            <Says outcome={outcome} />
            {!outcome.kept && file && outcome.good > 0 && (
              <Button kind="main" isDisabled={busy} onPress={() => void sendFile(file, 'good')}>
                Keep the {outcome.good} good rows for {code}
              </Button>
            )}
            {outcome.bad.length > 0 && (
              <ol className={styles.bad}>
                {outcome.bad.map((one) => (
                  <li key={one.line}>
                    <b>line {one.line}</b> {one.reason}
                  </li>
                ))}
                {outcome.badRows > outcome.bad.length && (
                  <li>and {count(outcome.badRows - outcome.bad.length, 'more row', 'more rows')}</li>
                )}
              </ol>
            )}
          </div>
        )}
      </div>
    </Panel>
  );
}

function Says({ outcome }: { readonly outcome: ImportOutcome }) {
  if (!outcome.kept)
    return (
      <Chip tone="bad">{count(outcome.badRows, 'row is bad', 'rows are bad')}; nothing is kept yet</Chip>
    );
  return (
    <Chip tone="good">
      {outcome.added} added, {outcome.changed} changed
      {outcome.badRows > 0 ? `, ${outcome.badRows} left out` : ''}
    </Chip>
  );
}
