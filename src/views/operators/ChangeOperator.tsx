import { useState } from 'react';
import type { Operator } from '../../contract';
import { ROLES } from '../../contract/roles';
import { ApiProblem, newKey, send, whyOf } from '../../client/api';
import { useStored } from '../../client/stored';
import { dayOrNull } from '../../client/form';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { SelectField, TextField } from '../../ui/Field';
import { Reach } from './Reach';
import styles from './Operators.module.css';

/** What someone is here, whom they reach, and until when: what they have open follows within seconds. */
export function ChangeOperator({
  operator,
  customers,
  onClose,
  onDone,
}: {
  readonly operator: Operator;
  readonly customers: readonly { readonly code: string; readonly name: string }[];
  readonly onClose: () => void;
  readonly onDone: () => void;
}) {
  const [role, setRole] = useState(operator.role);
  const [reach, setReach] = useState(operator.customers);
  const [until, setUntil] = useState(
    operator.endsAt === null ? '' : new Date(operator.endsAt).toISOString().slice(0, 10),
  );
  const [fields, setFields] = useState<Readonly<Record<string, string>>>({});
  const [problem, setProblem] = useState<string>();
  const stored = useStored({ role: operator.role, customers: operator.customers, endsAt: operator.endsAt });
  const change = async (): Promise<void> => {
    setProblem(undefined);
    setFields({});
    const body = { role, customers: reach, endsAt: dayOrNull(until) };
    try {
      await send('PUT', '/operators/{operator}', { operator: operator.id }, { body, key: newKey(), stored });
      onDone();
    } catch (error) {
      const named = error instanceof ApiProblem ? error.fields : {};
      setFields(named);
      if (Object.keys(named).length === 0) setProblem(whyOf(error));
    }
  };
  return (
    <Dialog
      open
      onClose={onClose}
      title={`Change ${operator.name}`}
      actions={
        <>
          <Button onPress={onClose}>Back</Button>
          <Button kind="main" onPress={() => void change()}>
            Change
          </Button>
        </>
      }
    >
      <SelectField
        label="Role"
        value={role}
        error={fields.role}
        onChange={(event) => setRole(ROLES.find((one) => one === event.target.value) ?? role)}
      >
        {ROLES.map((one) => (
          <option key={one} value={one}>
            {one}
          </option>
        ))}
      </SelectField>
      <Reach customers={customers} chosen={reach} onChange={setReach} error={fields.customers} />
      <TextField
        label="Until"
        type="date"
        help="from the beginning of that day (UTC) they come in no more; left empty: no end"
        value={until}
        error={fields.endsAt}
        onChange={(event) => setUntil(event.target.value)}
      />
      {problem !== undefined && (
        <p role="alert" className={styles.problem}>
          {problem}
        </p>
      )}
    </Dialog>
  );
}
