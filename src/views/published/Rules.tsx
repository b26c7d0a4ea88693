import type { Published } from '../../contract';
import { useState } from 'react';
import { newKey, send, whyOf } from '../../client/api';
import { useStored } from '../../client/stored';
import { CROSSINGS, SCREENS } from '../../core/intent';
import { Button } from '../../ui/Button';
import { ManyField, SelectField } from '../../ui/Field';
import { Panel } from '../../ui/Panel';
import { CROSSING_WORDS } from '../desk/words';
import styles from './Published.module.css';
import { WhyField } from '../shared/WhyField';

interface Props {
  readonly code: string;
  readonly initial: Published['rules'];
  readonly mayChange: boolean;
  readonly onKept: () => void;
}

/** What holds for all items of a customer, whatever a pool or an item says. */
export function Rules({ code, initial, mayChange, onKept }: Props) {
  const [rules, setRules] = useState(initial);
  const stored = useStored(initial);
  const [reason, setReason] = useState('');
  const [problem, setProblem] = useState<string>();
  const isSame = JSON.stringify(rules) === JSON.stringify(initial);
  const keep = async (): Promise<void> => {
    setProblem(undefined);
    try {
      const body = { crosses: [...rules.crosses], screen: rules.screen, reason };
      await send(
        'PUT',
        '/customers/{customer}/desk-rules',
        { customer: code },
        { body, key: newKey(), stored },
      );
      setReason('');
      onKept();
    } catch (error) {
      setProblem(whyOf(error));
    }
  };
  return (
    <Panel title={`For all items of ${code}`}>
      <fieldset className={styles.form} disabled={!mayChange}>
        <ManyField
          label="May cross at all"
          help="holds from the next start on"
          options={CROSSINGS.map((one) => ({ value: one, name: CROSSING_WORDS[one] }))}
          chosen={rules.crosses}
          onChange={(chosen) =>
            setRules({ ...rules, crosses: CROSSINGS.filter((one) => chosen.includes(one)) })
          }
        />
        <SelectField
          label="Shown, where an item says nothing"
          value={rules.screen}
          onChange={(event) =>
            setRules({ ...rules, screen: SCREENS.find((one) => one === event.target.value) ?? rules.screen })
          }
        >
          {SCREENS.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </SelectField>
        {!isSame && (
          <>
            <WhyField value={reason} onChange={setReason} />
            <div>
              <Button onPress={() => void keep()}>Keep for {code}</Button>
            </div>
          </>
        )}
        {problem !== undefined && (
          <p role="alert" className={styles.problem}>
            {problem}
          </p>
        )}
      </fieldset>
    </Panel>
  );
}
