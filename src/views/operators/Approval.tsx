import { useState } from 'react';
import type { ApprovalRule } from '../../core/approval';
import { minorDigits } from '../../core/currency';
import { ApiProblem, newKey, send, whyOf } from '../../client/api';
import { Button } from '../../ui/Button';
import { CheckField, ManyField, TextField } from '../../ui/Field';
import { Panel } from '../../ui/Panel';
import styles from './Operators.module.css';

interface Props {
  readonly initial: ApprovalRule;
  /** Currencies that customers are charged in. */
  readonly currencies: readonly string[];
  /** What can be made to need it. */
  readonly changes: readonly {
    /** What those are changes of. */
    readonly of: string;
    readonly kinds: readonly { readonly kind: string; readonly verb: string }[];
  }[];
  /** How many leads there are. */
  readonly leads: number;
}

/** What of the work takes the word of a lead who did not ask for it? */
export function Approval({ initial, currencies, changes, leads }: Props) {
  const [kept, setKept] = useState(initial);
  const [kinds, setKinds] = useState(initial.kinds);
  const [leadsToo, setLeadsToo] = useState(initial.leadsToo);
  const [amounts, setAmounts] = useState(() => writtenOf(initial, currencies));
  const [problem, setProblem] = useState<string>();
  const faults = Object.fromEntries(
    Object.entries(amounts).flatMap(([currency, text]) =>
      text.trim() === '' || minorOf(text, currency) !== undefined
        ? []
        : [[currency, 'an amount, or nothing']],
    ),
  );
  const rule: ApprovalRule = {
    above: Object.entries(amounts).flatMap(([currency, text]) => {
      const minor = minorOf(text, currency);
      return minor === undefined ? [] : [{ minor, currency }];
    }),
    kinds,
    leadsToo,
  };
  const isChanged = JSON.stringify(rule) !== JSON.stringify(kept);
  const keep = async (): Promise<void> => {
    setProblem(undefined);
    try {
      setKept(await send('PUT', '/approval-rule', {}, { body: rule, key: newKey() }));
    } catch (error) {
      const [named] = error instanceof ApiProblem ? Object.values(error.fields) : [];
      setProblem(named ?? whyOf(error));
    }
  };
  return (
    <Panel title="Approval" side={<span className={styles.help}>{saysOf(kept)}</span>}>
      <div className={styles.approval}>
        <p className={styles.help}>
          What is named here is begun by a lead who did not ask for it. Until then it is held, with its names,
          addresses and room.
        </p>
        <div className={styles.amounts}>
          {Object.entries(amounts).map(([currency, text]) => (
            <TextField
              key={currency}
              label={`Above, in ${currency} a month`}
              value={text}
              inputMode="decimal"
              placeholder="any amount goes"
              error={faults[currency]}
              onChange={(event) => setAmounts({ ...amounts, [currency]: event.target.value })}
            />
          ))}
        </div>
        {changes.map(({ of, kinds: own }) => (
          <ManyField
            key={of}
            label={`Always, of ${of}`}
            options={own.map(({ kind, verb }) => ({ value: kind, name: verb }))}
            chosen={kinds}
            onChange={setKinds}
          />
        ))}
        <CheckField
          label="Leads need another lead’s word too"
          checked={leadsToo}
          help={leadsToo && leads < 2 && 'there is one lead: nobody could say yes to what they ask for'}
          onChange={(event) => setLeadsToo(event.target.checked)}
        />
        {problem !== undefined && (
          <p role="alert" className={styles.problem}>
            {problem}
          </p>
        )}
        <div className={styles.ruleButtons}>
          <Button
            kind="main"
            isDisabled={!isChanged || Object.keys(faults).length > 0}
            onPress={() => void keep()}
          >
            Keep the rule
          </Button>
        </div>
      </div>
    </Panel>
  );
}

const writtenOf = (
  { above }: ApprovalRule,
  currencies: readonly string[],
): Readonly<Record<string, string>> =>
  Object.fromEntries(
    [...new Set([...currencies, ...above.map(({ currency }) => currency)])].sort().map((currency) => {
      const own = above.find((one) => one.currency === currency);
      const digits = minorDigits(currency);
      return [currency, own ? (own.minor / 10 ** digits).toFixed(digits) : ''];
    }),
  );

/** An amount in minor units as it was typed: no more digits than its currency has. */
function minorOf(text: string, currency: string): number | undefined {
  const [, whole, part = ''] = /^(\d{1,9})(?:[.,](\d+))?$/.exec(text.trim()) ?? [];
  const digits = minorDigits(currency);
  if (whole === undefined || part.length > digits) return undefined;
  return Number(whole + part.padEnd(digits, '0'));
}

const saysOf = ({ above, kinds }: ApprovalRule): string =>
  above.length + kinds.length === 0 ? 'nothing needs it' : 'in force';
