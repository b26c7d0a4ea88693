import { ArrowUp, Plus, Trash2 } from 'lucide-react';
import { useState } from 'react';
import type { GroupRuleView } from '../../contract';
import { ROLES } from '../../contract/roles';
import { ApiProblem, newKey, send, whyOf } from '../../client/api';
import { useStored } from '../../client/stored';
import { Button } from '../../ui/Button';
import { SelectField, TextField } from '../../ui/Field';
import { Panel } from '../../ui/Panel';
import { Reach } from './Reach';
import styles from './Operators.module.css';

interface Props {
  readonly initial: readonly GroupRuleView[];
  /** What the identity service is called. */
  readonly service: string;
  readonly customers: readonly { readonly code: string; readonly name: string }[];
}

/** What each group of the identity service gives whoever is in it; the first that fits gives the role. */
export function Groups({ initial, service, customers }: Props) {
  const [rules, setRules] = useState(initial);
  const [kept, setKept] = useState(initial);
  const [fields, setFields] = useState<Readonly<Record<string, string>>>({});
  const [problem, setProblem] = useState<string>();
  const stored = useStored({ rules: initial });
  const isChanged = JSON.stringify(rules) !== JSON.stringify(kept);
  const edit = (at: number, over: Partial<GroupRuleView>): void =>
    setRules(rules.map((one, n) => (n === at ? { ...one, ...over } : one)));
  const up = (at: number): void => {
    const [moved] = rules.slice(at, at + 1);
    if (!moved) return;
    const others = rules.filter((_one, n) => n !== at);
    setRules([...others.slice(0, at - 1), moved, ...others.slice(at - 1)]);
  };
  const keep = async (): Promise<void> => {
    setProblem(undefined);
    setFields({});
    try {
      const answer = await send('PUT', '/operators-groups', {}, { body: { rules }, key: newKey(), stored });
      setRules(answer.rules);
      setKept(answer.rules);
    } catch (error) {
      const named = error instanceof ApiProblem ? error.fields : {};
      setFields(named);
      setProblem(
        named.customers ?? named.rules ?? (Object.keys(named).length === 0 ? whyOf(error) : undefined),
      );
    }
  };
  return (
    <Panel title={`By their groups, with ${service}`}>
      <p className={styles.help}>
        The first group that somebody is in gives their role, anew at each sign-in.
      </p>
      <ol className={styles.rules}>
        {rules.map((rule, n) => (
          <li key={n}>
            <TextField
              label={`Group ${n + 1}`}
              value={rule.group}
              autoComplete="off"
              spellCheck={false}
              error={fields[`rules.${n}.group`]}
              onChange={(event) => edit(n, { group: event.target.value })}
            />
            <SelectField
              label={`Role of group ${n + 1}`}
              value={rule.role}
              onChange={(event) =>
                edit(n, { role: ROLES.find((one) => one === event.target.value) ?? rule.role })
              }
            >
              {ROLES.map((one) => (
                <option key={one} value={one}>
                  {one}
                </option>
              ))}
            </SelectField>
            <div>
              <Reach
                customers={customers}
                chosen={rule.customers}
                onChange={(chosen) => edit(n, { customers: chosen })}
                error={undefined}
              />
            </div>
            <span className={styles.ruleActs}>
              {n > 0 && (
                <Button
                  kind="quiet"
                  aria-label={`Ask group ${n + 1} earlier`}
                  icon={<ArrowUp size={15} aria-hidden="true" />}
                  onPress={() => up(n)}
                >
                  Earlier
                </Button>
              )}
              <Button
                kind="quiet"
                aria-label={`Without group ${n + 1}`}
                icon={<Trash2 size={15} aria-hidden="true" />}
                onPress={() => setRules(rules.filter((_one, at) => at !== n))}
              >
                Out
              </Button>
            </span>
          </li>
        ))}
      </ol>
      {problem !== undefined && (
        <p role="alert" className={styles.problem}>
          {problem}
        </p>
      )}
      <div className={styles.ruleButtons}>
        <Button
          icon={<Plus size={15} aria-hidden="true" />}
          onPress={() => setRules([...rules, { group: '', role: 'engineer', customers: [] }])}
        >
          Add a group
        </Button>
        <Button kind="main" isDisabled={!isChanged} onPress={() => void keep()}>
          Keep
        </Button>
      </div>
    </Panel>
  );
}
