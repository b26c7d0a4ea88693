import { useEffect, useRef } from 'react';
import { writeSize, WORK_PROFILES, type Alternative, type ProfileKey } from '../../core/sizing';
import type { ProvisionProposal } from '../../core/proposal';
import { count, writeMoney } from '../../client/format';
import { SelectField, TextField } from '../../ui/Field';
import type { Choice, ProvisionProps } from './facts';
import styles from './Provision.module.css';

interface Props extends Pick<ProvisionProps, 'sites' | 'templates'> {
  readonly choice: Choice;
  readonly onChange: (choice: Choice) => void;
  readonly proposal: ProvisionProposal;
  readonly groundProblem: string | undefined;
}

const PROFILES = Object.keys(WORK_PROFILES) as ProfileKey[];

export function Choices({ choice, onChange, sites, templates, proposal, groundProblem }: Props) {
  const set = (part: Partial<Choice>): void => onChange({ ...choice, ...part });
  const form = useRef<HTMLFormElement>(null);
  useEffect(() => {
    // What was typed before this page's script ran is kept.
    const typed = form.current && new FormData(form.current);
    if (typed) set({ environment: textOf(typed, 'environment'), people: textOf(typed, 'people') });
    // Once, when the script begins.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
  const nameCheck = proposal.checks.find((check) => check.key === 'name');
  const nameError =
    choice.environment !== '' && nameCheck?.state === 'blocks'
      ? `${nameCheck.says}. ${nameCheck.do ?? ''}`
      : undefined;
  return (
    <form
      ref={form}
      className={styles.choices}
      onSubmit={(event) => event.preventDefault()}
      aria-label="Choices"
    >
      <h1>Provision</h1>
      <SelectField
        label="Template"
        value={choice.template}
        onChange={(event) => set({ template: event.target.value, size: undefined })}
      >
        {templates.map((one) => (
          <option key={one.code} value={one.code}>
            {one.name}, revision {one.revision}
          </option>
        ))}
      </SelectField>
      <TextField
        label="Name of the environment"
        name="environment"
        value={choice.environment}
        autoFocus
        autoComplete="off"
        spellCheck={false}
        placeholder="like office"
        help="its hosts carry it"
        error={nameError}
        onChange={(event) => set({ environment: event.target.value.toLowerCase() })}
      />
      <div className={styles.pair}>
        <TextField
          label="People"
          name="people"
          type="number"
          min={1}
          max={5000}
          value={choice.people}
          error={choice.people !== '' && !(Number(choice.people) >= 1) ? 'from 1' : undefined}
          onChange={(event) => set({ people: event.target.value, size: undefined })}
        />
        <SelectField
          label="Work"
          value={choice.profile}
          onChange={(event) =>
            set({
              profile: PROFILES.find((one) => one === event.target.value) ?? 'standard',
              size: undefined,
            })
          }
        >
          {PROFILES.map((key) => (
            <option key={key} value={key}>
              {key}
            </option>
          ))}
        </SelectField>
      </div>
      <SelectField
        label="Site"
        value={choice.site}
        error={groundProblem}
        onChange={(event) => set({ site: event.target.value, size: undefined })}
      >
        {sites.map((one) => (
          <option key={one.code} value={one.code}>
            {one.name}, {one.kind}
          </option>
        ))}
      </SelectField>
      <Sizes proposal={proposal} chosen={choice.size} onChoose={(size) => set({ size })} />
    </form>
  );
}

const textOf = (data: FormData, name: string): string => {
  const value = data.get(name);
  return typeof value === 'string' ? value : '';
};

interface SizesProps {
  readonly proposal: ProvisionProposal;
  readonly chosen: string | undefined;
  readonly onChoose: (size: string | undefined) => void;
}

/** The alternatives that nothing beats; one a size, with N+1 where there is one. */
function Sizes({ proposal, chosen, onChoose }: SizesProps) {
  const { alternatives, chosen: best } = proposal.sizing;
  const offers = onePerSize(alternatives, best);
  if (offers.length === 0) return null;
  // What was pressed shows at once; the proposal follows.
  const selected = chosen ?? proposal.chosen?.size.key;
  return (
    <fieldset className={styles.sizes}>
      <legend>Hosts</legend>
      {offers.map((one) => (
        <label key={one.size.key} data-on={one.size.key === selected || undefined}>
          <input
            type="radio"
            name="size"
            checked={one.size.key === selected}
            onChange={() => onChoose(one.size.key === best?.size.key ? undefined : one.size.key)}
          />
          <span>
            <b>
              {one.hosts} × {writeSize(one.size)}
            </b>
            <small>
              {count(one.seats, 'seat', 'seats')} each, {one.binding} binds; one loss hits{' '}
              {Math.round(one.hitByOneLoss * 100)} %
            </small>
          </span>
          <span className={styles.price}>
            {writeMoney(one.monthly)}
            {one === best && chosen === undefined && <small>cheapest N+1</small>}
            {!one.keepsOneSpare && <small>no spare</small>}
          </span>
        </label>
      ))}
    </fieldset>
  );
}

function onePerSize(alternatives: readonly Alternative[], best: Alternative | undefined): Alternative[] {
  const offers = new Map<string, Alternative>();
  for (const one of best ? [best, ...alternatives] : alternatives) {
    const before = offers.get(one.size.key);
    if (!before || (one.keepsOneSpare && !before.keepsOneSpare)) offers.set(one.size.key, one);
  }
  return [...offers.values()].sort((a, b) => a.monthly.minor - b.monthly.minor);
}
