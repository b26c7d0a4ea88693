import type { GrantsFile } from '../../contract';
import { useState } from 'react';
import { Download } from 'lucide-react';
import { send, whyOf } from '../../client/api';
import { count } from '../../client/format';
import { ButtonLink } from '../../ui/Button';
import { FilePick } from '../../ui/FilePick';
import { Panel } from '../../ui/Panel';
import styles from './Items.module.css';

interface Props {
  readonly code: string;
  readonly environment: string;
  /** Left out: nothing may be changed. */
  readonly onRead?: ((read: GrantsFile) => void) | undefined;
}

const MOST_SHOWN = 12;

/** Grants from a file: pressed in the grid, and granted only with it. What names nobody is left out, by line. */
export function GrantFile({ code, environment, onRead }: Props) {
  const [name, setName] = useState<string>();
  const [read, setRead] = useState<GrantsFile>();
  const [problem, setProblem] = useState<string>();
  const choose = async (file: File): Promise<void> => {
    setName(file.name);
    setRead(undefined);
    setProblem(undefined);
    try {
      const answer = await send(
        'POST',
        '/customers/{customer}/environments/{environment}/grants/file',
        { customer: code, environment },
        { csv: await file.text() },
      );
      setRead(answer);
      onRead?.(answer);
    } catch (error) {
      setProblem(whyOf(error));
    }
  };
  return (
    <Panel
      title="From a file"
      side={
        <ButtonLink
          kind="quiet"
          icon={<Download size={15} aria-hidden="true" />}
          href={`/api/v1/customers/${code}/environments/${environment}/grants.csv`}
        >
          As it is now
        </ButtonLink>
      }
    >
      <div className={styles.outlook}>
        {onRead && (
          <FilePick
            label="Choose a CSV file"
            help="columns: pool, item, to, name, until"
            name={name}
            accept=".csv,text/csv"
            onChoose={(file) => void choose(file)}
          />
        )}
        {problem !== undefined && (
          <p role="alert" className={styles.short}>
            {problem}
          </p>
        )}
        {read && (
          <div role="status">
            <p className={styles.names}>
              {count(read.add.length, 'grant', 'grants')} pressed, {read.same} there already
              {read.badInAll > 0 && `, ${count(read.badInAll, 'line', 'lines')} left out`}
            </p>
            {read.bad.length > 0 && (
              <ol className={styles.bad}>
                {read.bad.slice(0, MOST_SHOWN).map(({ line, reason }) => (
                  <li key={line}>
                    <b>line {line}</b> {reason}
                  </li>
                ))}
                {read.badInAll > MOST_SHOWN && <li>and {read.badInAll - MOST_SHOWN} more</li>}
              </ol>
            )}
          </div>
        )}
      </div>
    </Panel>
  );
}
