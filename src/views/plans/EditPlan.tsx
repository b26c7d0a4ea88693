import { useState } from 'react';
import { Controller, useWatch } from 'react-hook-form';
import type { NewVersion, Plan } from '../../contract';
import { compareTerms, LIMITS, LIMIT_WORDS, NO_LIMITS, type Limit, type PlanTerms } from '../../core/plans';
import { METERED } from '../../core/rating';
import { namesOfSizes, writeSize, type MachineSize } from '../../core/machines';
import { newKey, send } from '../../client/api';
import { checkedAs, dayOrNull, numberOrNull, showRefusal, usePageForm } from '../../client/form';
import { count } from '../../client/format';
import { useStored } from '../../client/stored';
import { Button, ButtonLink } from '../../ui/Button';
import { CheckField, ManyField, TextField } from '../../ui/Field';
import { Panel } from '../../ui/Panel';
import { Differences } from './Differences';
import styles from './Plans.module.css';

interface Props {
  /** The plan that gets a new version; undefined: a new plan. */
  readonly known: Plan | undefined;
  readonly taken: readonly string[];
  readonly sites: readonly { readonly code: string; readonly name: string }[];
  readonly sizes: readonly MachineSize[];
  /** Those in which anything is charged. */
  readonly currencies: readonly string[];
}

/** What is typed: numbers and days as their fields have them. */
interface Fields {
  code: string;
  name: string;
  most: Record<Limit, string>;
  sizes: readonly string[];
  sites: readonly string[];
  fees: { currency: string; monthly: string }[];
  included: { meter: string; quantity: string }[];
  retentionDays: string;
  localAdministrator: boolean;
  readyHosts: string;
  from: string;
  note: string;
}

type Sent = NewVersion & { readonly code: string };

/** Makes a plan, or a further version of one: what it says otherwise than the one before is beside it. */
export function EditPlan({ known, taken, sites, sizes, currencies }: Props) {
  const before = known?.versions[0];
  const form = usePageForm<Fields, Sent>({
    defaultValues: fieldsOf(known, currencies),
    resolver: checkedAs<Fields, Sent>(
      async () => (await import('../../contract/plans')).planFormSchema(known ? [] : taken),
      sentFor,
    ),
  });
  const { register, control, handleSubmit, setError, formState } = form;
  const { errors } = formState;
  const typed = useWatch({ control }) as Fields;
  const [problem, setProblem] = useState<string>();
  const stored = useStored({ version: before?.version ?? 0 });
  const submit = handleSubmit(async ({ code, fees, included, ...rest }) => {
    setProblem(undefined);
    const body = {
      ...rest,
      fees: fees.filter(({ monthly }) => monthly !== ''),
      included: included.filter(({ quantity }) => quantity > 0),
    };
    try {
      await send('PUT', '/plans/{plan}', { plan: code }, { body, key: newKey(), stored });
      location.assign('/money/plans');
    } catch (error) {
      setProblem(showRefusal(error, ['name', 'from', 'sizes', 'sites', 'note'], setError));
    }
  });
  return (
    <div className={styles.edit}>
      <Panel title={known ? `${known.name}, version ${(before?.version ?? 0) + 1}` : 'A new plan'}>
        <form className={styles.form} onSubmit={(event) => void submit(event)} noValidate>
          <div className={styles.pair}>
            <TextField
              label="Code"
              readOnly={known !== undefined}
              autoComplete="off"
              spellCheck={false}
              error={errors.code?.message}
              {...register('code')}
            />
            <TextField label="Name" autoComplete="off" error={errors.name?.message} {...register('name')} />
          </div>
          <div className={styles.pair}>
            {LIMITS.map((limit) => (
              <TextField
                key={limit}
                label={LIMIT_WORDS[limit].title}
                inputMode="numeric"
                placeholder="no limit"
                autoComplete="off"
                error={errors.most?.[limit]?.message}
                {...register(`most.${limit}`)}
              />
            ))}
          </div>
          <Controller
            control={control}
            name="sizes"
            render={({ field }) => (
              <ManyField
                label="Sizes"
                help="none pressed: all of them"
                options={sizes.map((size) => ({ value: size.key, name: writeSize(size) }))}
                chosen={field.value}
                onChange={field.onChange}
                error={errors.sizes?.message}
              />
            )}
          />
          <Controller
            control={control}
            name="sites"
            render={({ field }) => (
              <ManyField
                label="Sites"
                help="none pressed: all of them"
                options={sites.map((site) => ({ value: site.code, name: site.name }))}
                chosen={field.value}
                onChange={field.onChange}
                error={errors.sites?.message}
              />
            )}
          />
          {currencies.length > 0 && (
            <div className={styles.pair}>
              {currencies.map((currency, n) => (
                <TextField
                  key={currency}
                  label={`A month in ${currency}`}
                  inputMode="decimal"
                  placeholder="not sold in it"
                  autoComplete="off"
                  error={errors.fees?.[n]?.monthly?.message}
                  {...register(`fees.${n}.monthly`)}
                />
              ))}
            </div>
          )}
          <div className={styles.pair}>
            {INCLUDABLE.map(({ meter, counts }, n) => (
              <TextField
                key={meter}
                label={`Included: ${meter}, ${counts}`}
                inputMode="numeric"
                placeholder="none"
                autoComplete="off"
                error={errors.included?.[n]?.quantity?.message}
                {...register(`included.${n}.quantity`)}
              />
            ))}
          </div>
          <div className={styles.pair}>
            <TextField
              label="Data kept, in days"
              inputMode="numeric"
              autoComplete="off"
              error={errors.retentionDays?.message}
              {...register('retentionDays')}
            />
            <TextField
              label="Can be had from"
              type="date"
              help="left empty: from now on"
              error={errors.from?.message}
              {...register('from')}
            />
          </div>
          <TextField
            label="Hosts from the ready shelf"
            help="so many of a new environment’s hosts, where they are ready"
            inputMode="numeric"
            autoComplete="off"
            error={errors.readyHosts?.message}
            {...register('readyHosts')}
          />
          <CheckField label="The customer has a local administrator" {...register('localAdministrator')} />
          <TextField label="What is new" placeholder="for those who look later" {...register('note')} />
          {problem !== undefined && (
            <p role="alert" className={styles.problem}>
              {problem}
            </p>
          )}
          <div className={styles.buttons}>
            <ButtonLink href="/money/plans">Back</ButtonLink>
            <Button type="submit" kind="main" isDisabled={formState.isSubmitting}>
              {known ? 'Add the version' : 'Make the plan'}
            </Button>
          </div>
        </form>
      </Panel>
      <div className={styles.outcome}>
        <Panel title={before ? `Against version ${before.version}` : 'What it says'}>
          <Differences
            from={before ? `version ${before.version}` : 'without a plan'}
            to={known ? `version ${(before?.version ?? 0) + 1}` : typed.name || 'this plan'}
            differences={compareTerms(before ?? NOTHING_SAID, termsOf(typed), namesOfSizes(sizes))}
          />
        </Panel>
        {known && (
          <Panel title="Who is on it">
            <p className={styles.help}>{staySays(known)}</p>
          </Panel>
        )}
      </div>
    </div>
  );
}

const INCLUDABLE = METERED.filter(({ bySize }) => !bySize);

const NOTHING_SAID: PlanTerms = {
  most: NO_LIMITS,
  sizes: [],
  sites: [],
  fees: [],
  included: [],
  retentionDays: 30,
  localAdministrator: false,
  readyHosts: 0,
};

function staySays({ versions }: Plan): string {
  const on = versions.reduce((sum, one) => sum + one.customers.length + one.others, 0);
  if (on === 0) return 'Nobody is on it.';
  return `${count(on, 'customer is', 'customers are')} on it, and stay${on === 1 ? 's' : ''} on the version that ${on === 1 ? 'it has' : 'they have'} until moved: each on its own page, or several together under Plans.`;
}

function fieldsOf(known: Plan | undefined, currencies: readonly string[]): Fields {
  const before = known?.versions[0];
  const feeIn = (currency: string): string =>
    before?.fees.find((fee) => fee.currency === currency)?.monthly ?? '';
  const most = before?.most ?? NO_LIMITS;
  const text = (limit: Limit): string => (most[limit] === null ? '' : String(most[limit]));
  return {
    code: known?.code ?? '',
    name: known?.name ?? '',
    most: {
      people: text('people'),
      hosts: text('hosts'),
      vcpu: text('vcpu'),
      memoryGiB: text('memoryGiB'),
      storageGiB: text('storageGiB'),
      personal: text('personal'),
    },
    sizes: before?.sizes ?? [],
    sites: before?.sites ?? [],
    fees: currencies.map((currency) => ({ currency, monthly: feeIn(currency) })),
    included: INCLUDABLE.map(({ meter }) => ({
      meter,
      quantity: String(before?.included.find((one) => one.meter === meter)?.quantity ?? ''),
    })),
    retentionDays: String(before?.retentionDays ?? 30),
    localAdministrator: before?.localAdministrator ?? false,
    readyHosts: String(before?.readyHosts ?? 0),
    from: '',
    note: '',
  };
}

/** What is sent for what was typed. */
const sentFor = ({ most, fees, included, retentionDays, readyHosts, from, ...typed }: Fields) => ({
  ...typed,
  most: mapLimits(most, numberOrNull),
  fees: fees.map(({ currency, monthly }) => ({ currency, monthly: monthly.trim() })),
  included: included.map(({ meter, quantity }) => ({ meter, quantity: numberOrNull(quantity) ?? 0 })),
  retentionDays: numberOrNull(retentionDays),
  readyHosts: numberOrNull(readyHosts),
  from: dayOrNull(from),
});

const mapLimits = <Value,>(
  most: Record<Limit, string>,
  of: (typed: string) => Value,
): Record<Limit, Value> => ({
  people: of(most.people),
  hosts: of(most.hosts),
  vcpu: of(most.vcpu),
  memoryGiB: of(most.memoryGiB),
  storageGiB: of(most.storageGiB),
  personal: of(most.personal),
});

/** What it will say, as far as what was typed can be read. */
const termsOf = (typed: Fields): PlanTerms => ({
  most: mapLimits(typed.most, (text) =>
    text.trim() === '' || !Number.isFinite(Number(text)) ? null : Number(text),
  ),
  sizes: typed.sizes,
  sites: typed.sites,
  fees: typed.fees.filter(({ monthly }) => monthly.trim() !== ''),
  included: typed.included
    .map(({ meter, quantity }) => ({ meter, quantity: Number(quantity) || 0 }))
    .filter(({ quantity }) => quantity > 0),
  retentionDays: Number(typed.retentionDays) || 0,
  localAdministrator: typed.localAdministrator,
  readyHosts: Number(typed.readyHosts) || 0,
});
