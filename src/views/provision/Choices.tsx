import { ChevronDown, ChevronUp } from 'lucide-react';
import type { UseFormReturn } from 'react-hook-form';
import type { PoolChoice, SizedPool } from '../../core/changes';
import { writeSize } from '../../core/machines';
import { isPersonal, type Alternative } from '../../core/sizing';
import { TERM_KEYS, type TermKey } from '../../core/terms';
import { count, writeMoney } from '../../client/format';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { SelectField, TextField } from '../../ui/Field';
import { TermField } from '../shared/TermField';
import type { Choice, Plan, ProvisionProps } from './facts';
import { Inputs } from './Inputs';
import { Usual } from './Usual';
import styles from './Provision.module.css';

interface Props extends Pick<ProvisionProps, 'sites' | 'templates' | 'views'> {
  readonly form: UseFormReturn<Choice>;
  readonly choice: Choice;
  readonly plan: Plan;
  readonly factsProblem: string | undefined;
  readonly isFull: boolean;
  readonly onFull: (isFull: boolean) => void;
  /** What it is called where nothing is typed. */
  readonly usualName: string;
  /** The customer's groups that are read, where the template asks for some. */
  readonly groups: readonly { readonly id: string; readonly name: string; readonly people: number }[];
  /** Images that hosts may be made of here. */
  readonly images: readonly string[];
}

/** The short form asks for little; the full one opens all the rest on the same page. */
export function Choices({
  form,
  isFull,
  onFull,
  choice,
  sites,
  templates,
  views,
  plan,
  factsProblem,
  images,
  groups,
  usualName,
}: Props) {
  const { register, setValue } = form;
  const document = templates.find(({ code }) => code === choice.template)?.document;
  const asked = document?.inputs ?? [];
  const setPool = (
    role: string,
    part: Partial<PoolChoice> & { readonly size?: string | undefined },
  ): void => {
    const before = choice.pools.find((one) => one.role === role) ?? { role };
    const next = Object.fromEntries(
      Object.entries({ ...before, ...part }).filter(([, value]) => value !== undefined),
    ) as unknown as PoolChoice;
    setValue('pools', [...choice.pools.filter((one) => one.role !== role), next]);
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
  const problems = problemsBelow('inputs', outlook.checks);
  const fields = {
    filled: choice.inputs,
    groups,
    problems,
    onFill: (filled: Choice['inputs']) => setValue('inputs', filled),
  };
  const chooseAgain = (again: Partial<Choice>): void => {
    for (const key of ['template', 'site', 'people', 'ready', 'inputs', 'pools'] as const)
      if (again[key] !== undefined) setValue(key, again[key]);
  };
  return (
    <form className={styles.choices} onSubmit={(event) => event.preventDefault()} aria-label="Choices">
      <h1>Provision</h1>
      <Usual views={views} choice={choice} onChoose={chooseAgain} />
      <SelectField
        label="Template"
        defaultValue={choice.template}
        help={document?.says}
        {...register('template', {
          onChange: () => {
            setValue('pools', []);
            setValue('inputs', []);
          },
        })}
      >
        {templates.map((one) => (
          <option key={one.code} value={one.code}>
            {one.document.name}, revision {one.revision}
          </option>
        ))}
      </SelectField>
      <TextField
        label="Name of the environment"
        autoFocus
        autoComplete="off"
        spellCheck={false}
        placeholder={usualName}
        help="small letters, digits and hyphens"
        error={nameError}
        autoCapitalize="none"
        {...register('environment')}
      />
      <div className={styles.pair}>
        <TextField
          label="People at most"
          type="number"
          min={1}
          max={5000}
          defaultValue={choice.people}
          error={choice.people !== '' && !(Number(choice.people) >= 1) ? 'from 1' : undefined}
          {...register('people', { onChange: withoutSizes })}
        />
        <TextField
          label="Ready from the start"
          type="number"
          min={1}
          max={5000}
          defaultValue={choice.ready}
          placeholder={choice.people}
          error={Number(choice.ready) > Number(choice.people) ? 'at most all of them' : undefined}
          {...register('ready', { onChange: withoutSizes })}
        />
      </div>
      <Inputs inputs={asked.filter(({ short }) => short)} {...fields} />
      <Button
        icon={
          isFull ? <ChevronUp size={15} aria-hidden="true" /> : <ChevronDown size={15} aria-hidden="true" />
        }
        aria-expanded={isFull}
        onPress={() => onFull(!isFull)}
      >
        {isFull ? 'Fewer choices' : `All choices${deviates(choice)}`}
      </Button>
      {isFull && (
        <>
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
          <Inputs inputs={asked.filter(({ short }) => !short)} {...fields} />
          {pools.map((pool, at) => (
            <PoolChoices
              key={pool.spec.role}
              pool={pool}
              isFirst={at === 0}
              alone={pools.length === 1}
              images={images}
              problems={poolProblems(pool.spec.role, plan)}
              chosen={choice.pools.find((one) => one.role === pool.spec.role)}
              onChoose={(part) => setPool(pool.spec.role, part)}
              onLeave={() =>
                setValue(
                  'pools',
                  choice.pools.filter((one) => one.role !== pool.spec.role),
                )
              }
            />
          ))}
        </>
      )}
      {!isFull && factsProblem !== undefined && <p role="alert">{factsProblem}</p>}
    </form>
  );
}

/** How much is otherwise than the template has it, while it is not shown. */
const deviates = ({ pools }: Choice): string => {
  const things = pools.reduce((sum, pool) => sum + Object.keys(pool).length - 1, 0);
  return things === 0 ? '' : `, ${count(things, 'thing', 'things')} otherwise`;
};

type Problems = Readonly<Record<string, string>>;

/** What is wrong with fields, of those that stand below a path. */
const problemsBelow = (path: string, checks: Plan['outlook']['checks']): Problems =>
  Object.fromEntries(
    checks.flatMap(({ key, says }) =>
      key.startsWith(`field ${path}.`) ? [[key.slice(path.length + 7), says]] : [],
    ),
  );

/** What is wrong with what was chosen for a pool, by its terms. */
const poolProblems = (role: string, { input, outlook }: Plan): Problems =>
  problemsBelow(`pools.${(input.pools ?? []).findIndex((one) => one.role === role)}`, outlook.checks);

/** What may be chosen otherwise for one pool, beside its size. */
const OPEN: readonly TermKey[] = TERM_KEYS.filter(
  (key) => !['kind', 'people', 'size', 'spare', 'track'].includes(key),
);

interface PoolProps {
  readonly pool: SizedPool;
  readonly alone: boolean;
  readonly isFirst: boolean;
  readonly images: readonly string[];
  readonly problems: Problems;
  readonly chosen: PoolChoice | undefined;
  readonly onChoose: (part: Partial<PoolChoice> & { readonly size?: string | undefined }) => void;
  readonly onLeave: () => void;
}

/** What is chosen for one pool: the hosts that carry it, and all that its template says of it. */
function PoolChoices({ pool, alone, isFirst, images, problems, chosen, onChoose, onLeave }: PoolProps) {
  const { spec, people } = pool;
  // Each changes what the sizes carry: one that was chosen by hand is chosen anew.
  const resizes = (key: TermKey): boolean => !['crosses', 'may', 'image', 'items'].includes(key);
  return (
    <details className={styles.pool} open={isFirst} aria-label={`Pool ${spec.role}`}>
      <summary>
        <b>{spec.role}</b> {count(people, 'person', 'people')}{' '}
        {chosen && Object.keys(chosen).length > 1 && <Chip tone="care">otherwise</Chip>}
      </summary>
      <Sizes pool={pool} chosen={chosen?.size} onChoose={(size) => onChoose({ size })} />
      <div className={styles.terms}>
        {OPEN.filter((key) => !isPersonal(spec) || !PERSONAL.has(key)).map((key) => (
          <TermField
            key={key}
            term={key}
            isTerse
            {...(alone ? {} : { of: spec.role })}
            value={spec[key]}
            error={problems[key]}
            options={key === 'image' ? images : undefined}
            onChange={(value) => onChoose({ [key]: value, ...(resizes(key) ? { size: undefined } : {}) })}
          />
        ))}
      </div>
      {chosen && Object.keys(chosen).length > 1 && (
        <Button onPress={onLeave}>
          {alone ? 'As the template has it' : `${spec.role} as the template has it`}
        </Button>
      )}
    </details>
  );
}

/** Where everyone has a host of their own, these say nothing. */
const PERSONAL: ReadonlySet<TermKey> = new Set<TermKey>(['arrival', 'concurrency', 'mostSeats']);

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
            {one === best && chosen === undefined && (
              <small>{personal || pool.spec.spare === 0 ? 'cheapest' : 'cheapest N+1'}</small>
            )}
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
    if (!before || (one.keepsOneSpare && !before.keepsOneSpare && one !== best && before !== best))
      offers.set(one.size.key, one);
  }
  return [...offers.values()].sort((a, b) => a.monthly.minor - b.monthly.minor);
}
