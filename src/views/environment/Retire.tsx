import type { ProposalView, ProposedTask } from '../../contract';
import { lazy, Suspense, useState } from 'react';
import { useWatch } from 'react-hook-form';
import { impactLine, type PolicyWish } from '../../core/planning';
import { checkedBy, usePageForm } from '../../client/form';
import { count, writeFigure, writeMoney, writeSpan } from '../../client/format';
import { Button, ButtonLink } from '../../ui/Button';
import { SelectField, TextField } from '../../ui/Field';
import { ImpactLine } from '../../ui/ImpactLine';
import { Mark, type MarkLook } from '../../ui/Mark';
import { Panel } from '../../ui/Panel';
import { Ring } from '../../ui/Ring';
import { useInBrowser } from '../shared/use-in-browser';
import { changePath, useProposal } from '../shared/use-proposal';
import styles from './Retire.module.css';

interface Props {
  readonly customer: { readonly code: string; readonly name: string; readonly mark: MarkLook };
  readonly environment: { readonly id: string; readonly name: string };
  readonly initial: ProposalView;
}

const RetirePolicy = lazy(() => import('./RetirePolicy'));

/** What goes, in which order, what is lost with it and what comes back; the customer's code is typed before it does. */
export function Retire({ customer, environment, initial }: Props) {
  const { register, handleSubmit, formState, control } = usePageForm<{
    code: string;
    reason: string;
    data: 'kept' | 'destroyed';
  }>({
    mode: 'onChange',
    defaultValues: { data: 'kept' },
    resolver: checkedBy(async () => (await import('./confirmation')).confirmation(customer.code)),
  });
  // What is only begun is not wrong yet.
  const typed = (useWatch({ control, name: 'code' }) ?? '').trim().toUpperCase();
  const begun = customer.code.startsWith(typed);
  const data = useWatch({ control, name: 'data' });
  const isInBrowser = useInBrowser();
  const [policy, setPolicy] = useState<PolicyWish | undefined>({});
  const { found, problem, busy, begin } = useProposal(changePath(customer.code, 'retire', environment.id), {
    input: { data },
    ...(policy && Object.keys(policy).length > 0 ? { policy } : {}),
  });
  const proposal = found?.proposal ?? initial;
  const path = `/customers/${customer.code}/environments/${environment.id}`;
  const confirm = handleSubmit(async ({ code, reason: why }) => {
    const run = await begin({ reason: why, code });
    if (run !== undefined) location.assign(`/customers/${customer.code}/runs/${run}`);
  });
  const minutes = proposal.policy.drain?.minutes ?? 0;
  const peopleIn = proposal.tasks.reduce((sum, task) => sum + task.people, 0);
  return (
    <div className={styles.page}>
      <section className={styles.order}>
        <h1>Retire {environment.name}</h1>
        <Order proposal={proposal} />
      </section>
      <Panel title={`From ${customer.name}`} side={<Mark mark={customer.mark} size={36} />}>
        <form className={styles.form} onSubmit={(event) => void confirm(event)}>
          <ImpactLine line={impactLine(proposal.impact, writeMoney)} />
          {peopleIn > 0 && (
            <p className={styles.care}>
              {count(peopleIn, 'person is', 'people are')} signed in now.{' '}
              {minutes > 0
                ? `They get ${count(minutes, 'minute', 'minutes')} to save and sign out, then their sessions are closed.`
                : 'Their sessions are closed at once.'}
            </p>
          )}
          {isInBrowser && (
            <Suspense>
              <RetirePolicy proposal={proposal} onPolicy={setPolicy} />
            </Suspense>
          )}
          <SelectField label="Profiles and personal disks" {...register('data')}>
            <option value="kept">keep as long as the plan promises</option>
            <option value="destroyed">destroy with the environment</option>
          </SelectField>
          <TextField
            label="Why"
            placeholder="for the trail"
            error={formState.errors.reason?.message}
            {...register('reason')}
          />
          <TextField
            label={`Type ${customer.code} to retire`}
            autoComplete="off"
            spellCheck={false}
            error={begun ? undefined : formState.errors.code?.message}
            {...register('code')}
          />
          {problem !== undefined && (
            <p role="alert" className={styles.problem}>
              {problem}
            </p>
          )}
          <div className={styles.buttons}>
            <ButtonLink href={path}>Cancel</ButtonLink>
            <Button
              type="submit"
              kind="danger"
              isDisabled={!formState.isValid || policy === undefined || busy || found === undefined}
            >
              Retire for {customer.code}
            </Button>
          </div>
        </form>
      </Panel>
    </div>
  );
}

interface Stage {
  readonly name: string;
  readonly says: string;
  /** What is lost for good, or what is free again. */
  readonly lost?: string;
  readonly back?: string;
  readonly names?: readonly string[];
}

/** The order of going, as a path from people to proof: at each place what goes, what is lost, what is free again. */
function Order({ proposal }: { readonly proposal: ProposalView }) {
  return (
    <ol className={styles.stages}>
      {stagesOf(proposal).map((stage) => (
        <li key={stage.name}>
          <b>{stage.name}</b>
          <span>
            {stage.says}
            {stage.names && stage.names.length > 0 && (
              <span className={styles.hosts}>
                {stage.names.map((name) => (
                  <span key={name} className="mono">
                    <Ring arcs={[{ look: 'thin', parts: 1, fill: 0 }]} size={18} label="" /> {name}
                  </span>
                ))}
              </span>
            )}
            {stage.lost !== undefined && <em className={styles.lost}>lost: {stage.lost}</em>}
            {stage.back !== undefined && <em className={styles.back}>free again: {stage.back}</em>}
          </span>
        </li>
      ))}
    </ol>
  );
}

const MOST_NAMES = 24;

function stagesOf(proposal: ProposalView): Stage[] {
  const going = proposal.tasks.filter((task) => task.do === 'remove');
  const of = (kind: string): readonly ProposedTask[] => going.filter((task) => task.kind === kind);
  const hosts = of('host');
  const gib = of('share').reduce((sum, task) => sum + Number(task.attributes.gib ?? 0), 0);
  const cidrs = (kind: string): string =>
    of(kind)
      .map((task) => String(task.attributes.cidr))
      .join(', ');
  const licences = of('publication').reduce((sum, task) => sum + Number(task.attributes.licences ?? 0), 0);
  const peopleIn = hosts.reduce((sum, task) => sum + task.people, 0);
  const kinds = new Set(['host', 'share', 'subnet', 'network', 'publication', 'pool']);
  const others = going.filter((task) => !kinds.has(task.kind));
  return [
    {
      name: 'Warn',
      says: `${count(proposal.impact.people, 'person gets', 'people get')} a mail; whoever is signed in gets a message`,
    },
    {
      name: 'Withdraw',
      says: 'items are no longer published',
      back: `${count(licences, 'licence seat', 'licence seats')}`,
    },
    {
      name: 'Hosts',
      says:
        peopleIn === 0
          ? `nobody is in; ${count(hosts.length, 'host leaves', 'hosts leave')} pool, directory and provider`
          : `${count(peopleIn, 'session is', 'sessions are')} closed; ${count(hosts.length, 'host leaves', 'hosts leave')} pool, directory and provider`,
      names: hosts.slice(0, MOST_NAMES).map((task) => task.name),
      back: count(hosts.length, 'name and its place', 'names and their places'),
    },
    profilesOf(proposal, gib),
    {
      name: 'Addresses',
      says:
        of('network').length > 0
          ? 'subnets, and the network with them'
          : 'the network stays: it is still used',
      back: [cidrs('subnet'), cidrs('network')].filter((text) => text !== '').join(' in '),
    },
    ...(others.length > 0 ? [{ name: 'Also', says: others.map((task) => task.name).join(', ') }] : []),
    {
      name: 'Proof',
      says: `provider and directory are asked; about ${writeSpan(proposal.seconds)} from now`,
      back: `${writeMoney({ ...proposal.monthly, minor: -proposal.monthly.minor })} a month, counted always on`,
    },
  ];
}

/** What becomes of people's data: kept until a day, which the checks say, or destroyed. */
function profilesOf({ checks }: ProposalView, gib: number): Stage {
  const kept = checks.find(({ key }) => key === 'retained');
  const lost = gib > 0 ? { lost: `${writeFigure(gib)} GiB for profiles` } : {};
  return kept
    ? { name: 'Profiles', says: `kept: ${kept.says}`, ...lost }
    : { name: 'Profiles', says: 'shares are deleted with everything on them', ...lost };
}
