import { useRef, useState } from 'react';
import { useFieldArray, useWatch } from 'react-hook-form';
import type { ChangedCustomer, Draft, NewCustomer, WholeCustomer } from '../../contract';
import { changeableOf } from '../../contract/changeable';
import { ApiProblem, get, newKey, send, whyOf } from '../../client/api';
import { checkedAs, usePageForm } from '../../client/form';
import { useStored } from '../../client/stored';
import { Button, ButtonLink } from '../../ui/Button';
import { SelectField, TextField } from '../../ui/Field';
import { Panel } from '../../ui/Panel';
import { fieldFor, fieldsOf, likeAnother, NO_FIELDS, sentFor, type CustomerFields } from './fields';
import styles from './Onboard.module.css';
import { Outcome } from './Outcome';
import { Rows } from './Rows';
import { usePreview } from './use-preview';

interface Named {
  readonly code: string;
  readonly name: string;
}

export interface OnboardProps {
  /** The customer that is changed; undefined: a new one. */
  readonly known?: WholeCustomer | undefined;
  /** Whether who looks may change it. */
  readonly mayChange?: boolean;
  /** What was kept half filled in. */
  readonly draft?: Draft | undefined;
  /** A new id, under which what is half filled in is kept. */
  readonly draftId: string;
  readonly plans: readonly Named[];
  readonly sites: readonly Named[];
  readonly cards: readonly (Named & { readonly currency: string })[];
  readonly customers: readonly Named[];
  readonly countries: readonly Named[];
  readonly zones: readonly string[];
}

const PREFIXES = [26, 25, 24, 23, 22, 21, 20, 19, 18, 17, 16];

/** A customer on one page: what is chosen on the left, what comes of it on the right. */
export function Onboard(props: OnboardProps) {
  const { known, mayChange = true, draft, draftId, plans, sites, cards, customers, countries, zones } = props;
  const first = known ? fieldsOf(known) : { ...NO_FIELDS, ...parsed(draft) };
  const form = usePageForm<CustomerFields, NewCustomer & ChangedCustomer>({
    defaultValues: first,
    resolver: checkedAs<CustomerFields, NewCustomer & ChangedCustomer>(
      async () => {
        const { changedCustomerSchema, newCustomerSchema } = await import('../../contract/customers');
        return known ? changedCustomerSchema : newCustomerSchema;
      },
      (fields) => (known ? changedFor(fields) : sentFor(fields)),
    ),
  });
  const { register, control, handleSubmit, reset, setFocus, formState } = form;
  const fields = useWatch({ control }) as CustomerFields;
  const { preview, problem: previewProblem } = usePreview(fields, known?.code ?? '');
  const contacts = useFieldArray({ control, name: 'contacts' });
  const days = useFieldArray({ control, name: 'days' });
  const tags = useFieldArray({ control, name: 'tags' });
  const [refused, setRefused] = useState<Readonly<Record<string, string>>>({});
  const [says, setSays] = useState<{ readonly text: string; readonly isDone: boolean }>();
  const stored = useStored(known ? changeableOf(known) : null);
  const storedDraft = useStored(draft ? { fields: draft.fields } : null);
  const id = useRef(draft?.id ?? draftId);
  const errorOf = (field: string): string | undefined => refused[field] ?? messageAt(formState.errors, field);
  const submit = handleSubmit(async (body) => {
    setSays(undefined);
    setRefused({});
    try {
      if (known) {
        const { changed } = await send(
          'PUT',
          '/customers/{customer}/about',
          { customer: known.code },
          { body, key: newKey(), stored },
        );
        setSays({
          text: changed.length === 0 ? 'It was so already.' : `Kept: ${changed.join(', ')}.`,
          isDone: true,
        });
        return;
      }
      await send('POST', '/customers', {}, { body, key: newKey() });
      if (draft) await send('DELETE', '/customer-drafts/{draft}', { draft: draft.id }, { key: newKey() });
      location.assign(`/customers/${body.code}`);
    } catch (error) {
      const named = error instanceof ApiProblem ? error.fields : {};
      const faults = Object.entries(named).map(([path, why]) => [fieldFor(path), why] as const);
      if (known && error instanceof ApiProblem && error.status === 412) {
        const isTouched = (field: keyof CustomerFields): boolean =>
          JSON.stringify(fields[field]) !== JSON.stringify(first[field]);
        // What was not touched here follows what somebody else has saved; what was stays as it was typed.
        setRefused(Object.fromEntries(faults.filter(([field]) => isTouched(field as keyof CustomerFields))));
        reset(fieldsOf({ ...known, ...stored.values }), { keepDirtyValues: true });
        setSays({ text: whyOf(error), isDone: false });
        return;
      }
      setRefused(Object.fromEntries(faults));
      if (faults.length === 0) setSays({ text: whyOf(error), isDone: false });
    }
  });
  const keep = async (): Promise<void> => {
    setSays(undefined);
    const kept = { code: fields.code, name: fields.name, form: JSON.stringify(fields) };
    try {
      await send(
        'PUT',
        '/customer-drafts/{draft}',
        { draft: id.current },
        { body: { fields: kept }, key: newKey(), stored: storedDraft },
      );
      setSays({ text: 'Kept for later: it is listed under Customers.', isDone: true });
    } catch (error) {
      setSays({ text: whyOf(error), isDone: false });
    }
  };
  const copy = async (code: string): Promise<void> => {
    if (code === '') return;
    try {
      reset(likeAnother(await get('/customers/{customer}/about', { customer: code }), fields));
    } catch (error) {
      setSays({ text: whyOf(error), isDone: false });
    }
  };
  const go = (field: string): void => setFocus(field as keyof CustomerFields);
  const ready = preview?.missing.length === 0;
  return (
    <div className={styles.page}>
      <form className={styles.form} onSubmit={(event) => void submit(event)} noValidate>
        <fieldset className={styles.bare} disabled={!mayChange}>
          <h1 className={known ? 'sr' : undefined}>{known ? 'About' : 'A new customer'}</h1>
          {!known && customers.length > 0 && (
            <SelectField
              label="Like another"
              help="plan, site, zone, prices, calendar, tags and rule are copied"
              onChange={(event) => void copy(event.target.value)}
            >
              <option value="">not like any</option>
              {customers.map((one) => (
                <option key={one.code} value={one.code}>
                  {one.code} {one.name}
                </option>
              ))}
            </SelectField>
          )}
          <Panel title="Who">
            <div className={styles.fields}>
              <div className={styles.pair}>
                <TextField
                  label="Code"
                  readOnly={known !== undefined}
                  autoComplete="off"
                  spellCheck={false}
                  placeholder="like MHP"
                  error={errorOf('code')}
                  {...register('code')}
                />
                {!known && (
                  <SelectField label="Begins as" {...register('state')}>
                    <option value="active">active</option>
                    <option value="trial">trial</option>
                  </SelectField>
                )}
              </div>
              <TextField
                label="Legal name"
                autoComplete="off"
                error={errorOf('name')}
                {...register('name')}
              />
              <Rows
                title="Contacts"
                add="Add a contact"
                error={errorOf('contacts')}
                onAdd={() => contacts.append({ name: '', mail: '', phone: '', what: '' })}
                onRemove={contacts.remove}
                rows={contacts.fields.map(({ id: key }, n) => ({
                  id: key,
                  says: `contact ${n + 1}`,
                  fields: (
                    <>
                      <TextField
                        label="Name"
                        error={errorOf(`contacts.${n}.name`)}
                        {...register(`contacts.${n}.name`)}
                      />
                      <TextField
                        label="Mail"
                        error={errorOf(`contacts.${n}.mail`)}
                        {...register(`contacts.${n}.mail`)}
                      />
                      <TextField label="Asked about" {...register(`contacts.${n}.what`)} />
                    </>
                  ),
                }))}
              />
            </div>
          </Panel>
          <Panel title="Where and when">
            <div className={styles.fields}>
              {known ? (
                <p className={styles.help}>
                  At home in {sites.find((one) => one.code === known.site)?.name ?? known.site}.
                </p>
              ) : (
                <SelectField
                  label="Home site"
                  help={
                    sites.length === 0 && <a href="/ground/connect">There is none yet: connect a provider</a>
                  }
                  error={errorOf('site')}
                  {...register('site')}
                >
                  <option value="">choose one</option>
                  {sites.map((one) => (
                    <option key={one.code} value={one.code}>
                      {one.name}
                    </option>
                  ))}
                </SelectField>
              )}
              <TextField
                label="Time zone"
                list="zones"
                placeholder="like Europe/Dublin"
                autoComplete="off"
                error={errorOf('zone')}
                {...register('zone')}
              />
              <datalist id="zones">
                {zones.map((zone) => (
                  <option key={zone} value={zone} />
                ))}
              </datalist>
              <div className={styles.pair}>
                <SelectField label="Public holidays of" error={errorOf('country')} {...register('country')}>
                  <option value="">no country</option>
                  {countries.map((one) => (
                    <option key={one.code} value={one.code}>
                      {one.name}
                    </option>
                  ))}
                </SelectField>
                <TextField
                  label="Region"
                  help="as in ISO 3166-2, like BY; may be empty"
                  autoComplete="off"
                  error={errorOf('region')}
                  {...register('region')}
                />
              </div>
              <Rows
                title="Days of their own"
                add="Add a day"
                error={errorOf('days')}
                onAdd={() => days.append({ date: '', name: '' })}
                onRemove={days.remove}
                rows={days.fields.map(({ id: key }, n) => ({
                  id: key,
                  says: `day ${n + 1}`,
                  fields: (
                    <>
                      <TextField
                        label="Day"
                        type="date"
                        error={errorOf(`calendar.days.${n}.date`)}
                        {...register(`days.${n}.date`)}
                      />
                      <TextField
                        label="What it is"
                        error={errorOf(`calendar.days.${n}.name`)}
                        {...register(`days.${n}.name`)}
                      />
                    </>
                  ),
                }))}
              />
            </div>
          </Panel>
          {!known && (
            <Panel title="What they buy">
              <div className={styles.fields}>
                <SelectField
                  label="Plan"
                  help={plans.length === 0 && <a href="/money/plans/edit">There is none yet: make one</a>}
                  error={errorOf('plan')}
                  {...register('plan')}
                >
                  <option value="">choose one</option>
                  {plans.map((one) => (
                    <option key={one.code} value={one.code}>
                      {one.name}
                    </option>
                  ))}
                </SelectField>
                <SelectField
                  label="Rate card"
                  help={
                    cards.length === 0 ? (
                      <a href="/money/prices">There is none yet: make one</a>
                    ) : (
                      'its currency is theirs'
                    )
                  }
                  error={errorOf('card') ?? errorOf('currency')}
                  {...register('card', {
                    onChange: (event: { target: { value: string } }) =>
                      form.setValue(
                        'currency',
                        cards.find((one) => one.code === event.target.value)?.currency ?? '',
                      ),
                  })}
                >
                  <option value="">choose one</option>
                  {cards.map((one) => (
                    <option key={one.code} value={one.code}>
                      {one.name} ({one.currency})
                    </option>
                  ))}
                </SelectField>
              </div>
            </Panel>
          )}
          <Panel title="Names, addresses, tags">
            <div className={styles.fields}>
              <TextField
                label="Naming rule"
                placeholder="the template’s"
                help="parts: {customer} {environment} {site} {role} {counter:2}"
                autoComplete="off"
                spellCheck={false}
                error={errorOf('naming')}
                {...register('naming')}
              />
              <SelectField
                label="Address block at a site"
                help={known ? 'for sites where they have none yet' : 'it can be made twice as large later'}
                {...register('blockPrefix')}
              >
                {PREFIXES.map((prefix) => (
                  <option key={prefix} value={prefix}>
                    /{prefix}, {(2 ** (32 - prefix)).toLocaleString('en-GB')} addresses
                  </option>
                ))}
              </SelectField>
              <TextField
                label="Name servers"
                placeholder="10.0.0.53, 10.0.1.53"
                autoComplete="off"
                spellCheck={false}
                error={errorOf('nameServers')}
                {...register('nameServers')}
              />
              <TextField
                label="Name to sign in at"
                placeholder="desks.svg.example"
                help="its certificate is given under Gateway"
                autoComplete="off"
                spellCheck={false}
                error={errorOf('gatewayName')}
                {...register('gatewayName')}
              />
              <TextField
                label="Their local administrator"
                type="email"
                placeholder="none"
                help="where the plan has one"
                autoComplete="off"
                error={errorOf('administrator')}
                {...register('administrator')}
              />
              <Rows
                title="Tags, on every resource of theirs"
                add="Add a tag"
                error={errorOf('tags')}
                onAdd={() => tags.append({ tag: '', value: '' })}
                onRemove={tags.remove}
                rows={tags.fields.map(({ id: key }, n) => ({
                  id: key,
                  says: `tag ${n + 1}`,
                  fields: (
                    <>
                      <TextField label="Tag" spellCheck={false} {...register(`tags.${n}.tag`)} />
                      <TextField label="Is" {...register(`tags.${n}.value`)} />
                    </>
                  ),
                }))}
              />
            </div>
          </Panel>
          {known && mayChange && (
            <TextField label="Why" placeholder="for the trail" {...register('reason')} />
          )}
        </fieldset>
      </form>
      <div className={styles.outcome}>
        <Outcome preview={preview} name={fields.name} isKnown={known !== undefined} onGo={go} />
        {(says ?? previewProblem) !== undefined && (
          <p
            role={says?.isDone === true ? 'status' : 'alert'}
            className={says?.isDone === true ? styles.help : styles.problem}
          >
            {says?.text ?? previewProblem}
          </p>
        )}
        <div className={styles.buttons}>
          {known ? (
            <ButtonLink href={`/api/v1/customers/${known.code}/about.yaml`}>As a file</ButtonLink>
          ) : (
            <Button onPress={() => void keep()}>Keep for later</Button>
          )}
          {mayChange && (
            <Button kind="main" isDisabled={!ready || formState.isSubmitting} onPress={() => void submit()}>
              {known
                ? `Change ${known.code}`
                : `Take on ${fields.code.trim() === '' ? 'the customer' : fields.code}`}
            </Button>
          )}
        </div>
      </div>
    </div>
  );
}

/** What is sent for a change: what is fixed once someone is a customer is left out. */
function changedFor(fields: CustomerFields): object {
  const rest = changeableOf(sentFor(fields) as WholeCustomer);
  return { ...rest, reason: fields.reason };
}

function parsed(draft: Draft | undefined): Partial<CustomerFields> {
  if (!draft) return {};
  try {
    return JSON.parse(draft.fields.form ?? '{}') as Partial<CustomerFields>;
  } catch {
    return {};
  }
}

/** The message of a field, wherever it is within the errors. */
function messageAt(errors: object, path: string): string | undefined {
  let at: unknown = errors;
  for (const part of path === 'country' || path === 'region' || path === 'days'
    ? ['calendar', path]
    : path.split('.')) {
    if (typeof at !== 'object' || at === null) return undefined;
    at = (at as Record<string, unknown>)[part];
  }
  if (typeof at !== 'object' || at === null) return undefined;
  if ('message' in at && typeof at.message === 'string') return at.message;
  if (Array.isArray(at)) return path === 'nameServers' ? firstMessage(at) : undefined;
  return path === 'tags' ? firstMessage(Object.values(at)) : undefined;
}

const firstMessage = (all: readonly unknown[]): string | undefined =>
  all.flatMap((one) =>
    typeof one === 'object' && one !== null && 'message' in one && typeof one.message === 'string'
      ? [one.message]
      : [],
  )[0];
