import type { UseFormReturn } from 'react-hook-form';
import type { PoolChoice, SizedPool } from '../../core/changes';
import { writeSize } from '../../core/machines';
import { isPersonal, WORK_PROFILES, type Alternative, type ProfileKey } from '../../core/sizing';
import { count, writeMoney } from '../../client/format';
import { SelectField, TextField } from '../../ui/Field';
import type { Choice, Plan, ProvisionProps } from './facts';
import styles from './Provision.module.css';

interface Props extends Pick<ProvisionProps, 'sites' | 'templates'> {
  readonly form: UseFormReturn<Choice>;
  readonly choice: Choice;
  readonly plan: Plan;
  readonly factsProblem: string | undefined;
}

/** What is changed of a pool's choice; a size of undefined is left to the sizing. */
interface PoolEdit {
  readonly profile?: ProfileKey;
  readonly size?: string | undefined;
}

const PROFILES = Object.keys(WORK_PROFILES) as ProfileKey[];

export function Choices({ form, choice, sites, templates, plan, factsProblem }: Props) {
  const { register, setValue } = form;
  const setPool = (role: string, part: PoolEdit): void => {
    const before = choice.pools.find((one) => one.role === role) ?? { role };
    setValue('pools', [...choice.pools.filter((one) => one.role !== role), trimmed({ ...before, ...part })]);
  };
  const withoutSizes = (): void =>
    setValue(
      'pools',
      choice.pools.map(({ size: _size, ...rest }) => rest),
    );
  const { input, outlook, pools } = plan;
  const nameCheck = outlook.checks.find((check) => check.key === 'name');
  const nameError =
    choice.environment !== '' && input.environment !== '' && nameCheck?.state === 'blocks'
      ? `${nameCheck.says}. ${nameCheck.do ?? ''}`
      : undefined;
  return (
    <form className={styles.choices} onSubmit={(event) => event.preventDefault()} aria-label="Choices">
      <h1>Provision</h1>
      <SelectField
        label="Template"
        defaultValue={choice.template}
        {...register('template', { onChange: () => setValue('pools', []) })}
      >
        {templates.map((one) => (
          <option key={one.code} value={one.code}>
            {one.name}, revision {one.revision}
          </option>
        ))}
      </SelectField>
      <TextField
        label="Name of the environment"
        autoFocus
        autoComplete="off"
        spellCheck={false}
        placeholder="like office"
        help="small letters, digits and hyphens"
        error={nameError}
        autoCapitalize="none"
        {...register('environment')}
      />
      <TextField
        label="People"
        type="number"
        min={1}
        max={5000}
        defaultValue={choice.people}
        error={choice.people !== '' && !(Number(choice.people) >= 1) ? 'from 1' : undefined}
        {...register('people', { onChange: withoutSizes })}
      />
      <SelectField
        label="Site"
        error={factsProblem}
        defaultValue={choice.site}
        {...register('site', { onChange: withoutSizes })}
      >
        {sites.map((one) => (
          <option key={one.code} value={one.code}>
            {one.name}, {one.kind}
          </option>
        ))}
      </SelectField>
      {pools.map((pool) => (
        <PoolChoices
          key={pool.spec.role}
          pool={pool}
          alone={pools.length === 1}
          chosen={choice.pools.find((one) => one.role === pool.spec.role)?.size}
          onChoose={(part) => setPool(pool.spec.role, part)}
        />
      ))}
    </form>
  );
}

/** Without what is left as the template has it. */
const trimmed = (pool: PoolChoice & { readonly size?: string | undefined }): PoolChoice => {
  const { size, ...rest } = pool;
  return size === undefined ? rest : { ...rest, size };
};

interface PoolProps {
  readonly pool: SizedPool;
  readonly alone: boolean;
  readonly chosen: string | undefined;
  readonly onChoose: (part: PoolEdit) => void;
}

/** What is chosen for one pool: the work of its people, and the hosts that carry it. */
function PoolChoices({ pool, alone, chosen, onChoose }: PoolProps) {
  const { spec, people, profile } = pool;
  return (
    <section className={styles.pool} aria-label={`Pool ${spec.role}`}>
      {!alone && (
        <h2>
          {spec.role} <small>{count(people, 'person', 'people')}</small>
        </h2>
      )}
      <SelectField
        label={alone ? 'Work' : `Work in ${spec.role}`}
        value={profile}
        onChange={(event) =>
          onChoose({
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
      <Sizes pool={pool} chosen={chosen} onChoose={(size) => onChoose({ size })} />
    </section>
  );
}

interface SizesProps {
  readonly pool: SizedPool;
  readonly chosen: string | undefined;
  readonly onChoose: (size: string | undefined) => void;
}

/** What would do; one a size, with N+1 where there is one. */
function Sizes({ pool, chosen, onChoose }: SizesProps) {
  const { all, chosen: best } = pool.sizing;
  const offers = onePerSize(all, best);
  if (offers.length === 0) return null;
  const personal = isPersonal(pool.spec);
  // What was pressed shows at once; the proposal follows.
  const selected = chosen ?? pool.chosen?.size.key;
  return (
    <fieldset className={styles.sizes}>
      <legend>Hosts</legend>
      {offers.map((one) => (
        <label key={one.size.key} data-on={one.size.key === selected || undefined}>
          <input
            type="radio"
            name={`size of ${pool.spec.role}`}
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
            <small>{writeMoney(one.monthlyPerSeat)} a seat</small>
            {one === best && chosen === undefined && <small>{personal ? 'cheapest' : 'cheapest N+1'}</small>}
            {!personal && !one.keepsOneSpare && <small>no spare</small>}
            {one.isBeaten && <small>another does better</small>}
          </span>
        </label>
      ))}
    </fieldset>
  );
}

function onePerSize(all: readonly Alternative[], best: Alternative | undefined): Alternative[] {
  const offers = new Map<string, Alternative>();
  for (const one of best ? [best, ...all] : all) {
    const before = offers.get(one.size.key);
    if (!before || (one.keepsOneSpare && !before.keepsOneSpare)) offers.set(one.size.key, one);
  }
  return [...offers.values()].sort((a, b) => a.monthly.minor - b.monthly.minor);
}
