import { useState } from 'react';
import type { ApprovalState } from '../../contract';
import type { ApprovalRule } from '../../core/approval';
import { minorDigits } from '../../core/currency';
import { ApiProblem, newKey, send, whyOf } from '../../client/api';
import { useStored } from '../../client/stored';
import { Button } from '../../ui/Button';
import { CheckField, ManyField, TextField } from '../../ui/Field';
import { Panel } from '../../ui/Panel';
import styles from './Operators.module.css';

interface Props {
  readonly initial: ApprovalState;
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

/** Which changes need approval by a lead who did not ask for them? */
export function Approval({ initial, currencies, changes, leads }: Props) {
  const [state, setState] = useState(initial);
  const { rule: kept, proposed } = state;
  const stored = useStored(initial.rule);
  const [kinds, setKinds] = useState(kept.kinds);
  const [leadsToo, setLeadsToo] = useState(kept.leadsToo);
  const [amounts, setAmounts] = useState(() => writtenOf(kept, currencies));
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
  const keep = async (wanted: ApprovalRule): Promise<void> => {
    setProblem(undefined);
    try {
      const now = await send('PUT', '/approval-rule', {}, { body: wanted, key: newKey(), stored });
      setState(now);
      setKinds(now.rule.kinds);
      setLeadsToo(now.rule.leadsToo);
      setAmounts(writtenOf(now.rule, currencies));
    } catch (error) {
      const [named] = error instanceof ApiProblem ? Object.values(error.fields) : [];
      setProblem(named ?? whyOf(error));
    }
  };
  return (
    <Panel title="Approval" side={<span className={styles.help}>{saysOf(kept)}</span>}>
      <div className={styles.approval}>
        <p className={styles.help}>
          These changes need approval by a lead who did not ask for them. Until then names, addresses and room
          are reserved. What one person begins for a customer within 30 days is added up.
        </p>
        <div className={styles.amounts}>
          {Object.entries(amounts).map(([currency, text]) => (
            <TextField
              key={currency}
              label={`Above, in ${currency} a month`}
              value={text}
              inputMode="decimal"
              placeholder="no limit"
              help={text.trim() === '' && 'in this currency no cost needs approval'}
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
          label="Leads need approval by another lead too"
          checked={leadsToo}
          help={leadsToo && leads < 2 && 'there is one lead: nobody could approve what they ask for'}
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
            onPress={() => void keep(rule)}
          >
            Save the rule
          </Button>
        </div>
        {proposed && (
          <div role="status" className={styles.ruleButtons}>
            <p className={styles.help}>
              {proposed.mine ? 'You propose' : `${proposed.by} proposes`}:{' '}
              {writtenRule(proposed.rule, changes)}
              {proposed.mine && '. Another lead has to approve it.'}
            </p>
            {!proposed.mine && <Button onPress={() => void keep(proposed.rule)}>Approve</Button>}
          </div>
        )}
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

/** A rule in one line, as another lead reads it before they agree to it. */
function writtenRule({ above, kinds, leadsToo }: ApprovalRule, changes: Props['changes']): string {
  const verbs = changes.flatMap((one) => one.kinds);
  const parts = [
    ...above.map(
      ({ minor, currency }) =>
        `above ${(minor / 10 ** minorDigits(currency)).toFixed(minorDigits(currency))} ${currency} a month`,
    ),
    ...kinds.map((kind) => verbs.find((one) => one.kind === kind)?.verb ?? kind),
  ];
  const what = parts.length === 0 ? 'nothing needs approval' : parts.join(', ');
  return leadsToo ? `${what}; leads too` : `${what}; leads approve their own`;
}

const saysOf = ({ above, kinds }: ApprovalRule): string =>
  above.length + kinds.length === 0 ? 'nothing needs it' : 'in force';
