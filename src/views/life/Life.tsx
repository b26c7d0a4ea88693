import { Archive, ArrowRight, CirclePause, CirclePlay, DoorOpen } from 'lucide-react';
import { useState } from 'react';
import type { Life as Data } from '../../contract';
import { ApiProblem, get, newKey, send, whyOf } from '../../client/api';
import { count, writeDay, writeMoney } from '../../client/format';
import { useLive } from '../../client/live';
import { Button, ButtonLink } from '../../ui/Button';
import { TextField } from '../../ui/Field';
import { ImpactLine } from '../../ui/ImpactLine';
import { Figure, Figures, Panel } from '../../ui/Panel';
import { Progress } from '../../ui/Progress';
import styles from './Life.module.css';

interface Props {
  readonly code: string;
  readonly name: string;
  readonly zone: string;
  readonly initial: Data;
  readonly mayTurn: boolean;
  readonly mayLetGo: boolean;
}

const DAY = 86_400_000;

/** How far the run is in which a customer’s environments are retired. */
const OFFBOARDING: Readonly<Record<NonNullable<Data['leaving']>['state'], string>> = {
  running: 'Their environments are being retired.',
  stopping: 'The run stops when the current parts have ended.',
  stopped: 'The run has stopped. Resume it on its page, or continue here.',
  done: 'Their environments are retired.',
};
/** Where the run was ended by hand. */
const ENDED = 'The run was ended before all environments were retired.';

/** Shall they pause, start again, or leave; and what does each of it do? */
export function Life({ code, name, zone, initial, mayTurn, mayLetGo }: Props) {
  const { value, again } = useLive(
    { key: 'life', read: () => get('/customers/{customer}/life', { customer: code }) },
    initial,
    `/customers/${code}/events`,
    (change) => change.topic !== 'people',
  );
  const { state, environments, now, paused, started, retentionDays, leaving, retiredAt, deletedAt } = value;
  const on = environments.reduce((sum, one) => sum + one.on, 0);
  const people = environments.reduce((sum, one) => sum + one.peopleIn, 0);
  const going = state === 'leaving' || state === 'retired' ? leaving : null;
  const isAtWork = going?.state === 'running' || going?.state === 'stopping';
  return (
    <div className={styles.page}>
      <h1 className="sr">Pause or offboard</h1>
      <Figures>
        <Figure value={state} label={retiredAt === null ? 'now' : `since ${writeDay(retiredAt, zone)}`} />
        <Figure value={writeMoney(now)} label="a month as it stands" note="always on, with the plan" />
        <Figure value={writeMoney(paused)} label="a month while all is off" note="storage, licences, plan" />
        <Figure value={count(retentionDays, 'day', 'days')} label="their data are kept after leaving" />
      </Figures>
      <div className={styles.turns}>
        {(state === 'active' || state === 'trial') && (
          <Turn
            title="Pause"
            icon={<CirclePause size={16} aria-hidden="true" />}
            says={`${name} uses nothing for a while: every host goes off, nothing is lost.`}
            impact={`${count(people, 'person', 'people')} signed in · ${count(on, 'host goes', 'hosts go')} off · ${writeMoney({ minor: paused.minor - now.minor, currency: now.currency })} a month · can be started again`}
            code={code}
            may={mayTurn}
            warns
            onTurn={async (typed) => {
              await send(
                'POST',
                '/customers/{customer}/pause',
                { customer: code },
                { body: typed, key: newKey() },
              );
              again();
            }}
          />
        )}
        {state === 'paused' && (
          <Turn
            title="Start again"
            icon={<CirclePlay size={16} aria-hidden="true" />}
            says="The hosts that the pause switched off come on; those that were off before stay off."
            impact={`${count(environments.length, 'environment', 'environments')} · ${writeMoney(started)} a month from then on`}
            may={mayTurn}
            onTurn={async ({ reason }) => {
              await send(
                'POST',
                '/customers/{customer}/start',
                { customer: code },
                { body: { reason }, key: newKey() },
              );
              again();
            }}
          />
        )}
        {going && (
          <Panel title="Offboarding">
            <p>{going.state === 'done' && environments.length > 0 ? ENDED : OFFBOARDING[going.state]}</p>
            <div className={styles.far}>
              {going.done} of {count(going.parts, 'environment', 'environments')} retired
              <Progress
                done={going.done}
                total={going.parts}
                label={`${going.done} of ${count(going.parts, 'environment', 'environments')} retired`}
              />
            </div>
            <p className={styles.right}>
              <ButtonLink href={`/runs/${going.run}`} icon={<ArrowRight size={15} aria-hidden="true" />}>
                See the run
              </ButtonLink>
            </p>
          </Panel>
        )}
        {state !== 'retired' && !isAtWork && (
          <Turn
            title={state === 'leaving' ? 'Continue offboarding' : 'Offboard'}
            icon={<DoorOpen size={16} aria-hidden="true" />}
            says={`Every environment is retired, addresses and names are given back, and the plan ends. ${dataSays(retentionDays)}`}
            impact={`${count(environments.length, 'environment', 'environments')} · ${count(
              environments.reduce((sum, one) => sum + one.hosts, 0),
              'host',
              'hosts',
            )} · ${count(people, 'person', 'people')} signed in · cannot be undone`}
            code={code}
            may={mayLetGo}
            danger
            onTurn={async ({ code: typed, reason }) => {
              await send(
                'POST',
                '/customers/{customer}/leave',
                { customer: code },
                { body: { code: typed, reason }, key: newKey() },
              );
              again();
            }}
          />
        )}
        <Panel title="Archive">
          <p>
            People, settings, trail, the charges of every month, and the proof of each environment that was
            retired: open files, to hand over.
            {retiredAt !== null && ` ${keptSays(retiredAt + retentionDays * DAY, deletedAt, zone)}`}
          </p>
          {mayTurn && (
            <p className={styles.right}>
              <ButtonLink
                href={`/api/v1/customers/${code}/archive.zip`}
                icon={<Archive size={15} aria-hidden="true" />}
              >
                {code}.zip
              </ButtonLink>
            </p>
          )}
        </Panel>
      </div>
      {environments.length > 0 && (
        <Panel title={count(environments.length, 'environment', 'environments')}>
          <ul className={styles.environments}>
            {environments.map((one) => (
              <li key={one.id}>
                <a href={`/customers/${code}/environments/${one.id}`}>{one.name}</a>
                <span>{one.site}</span>
                <span>
                  {one.on} of {count(one.hosts, 'host', 'hosts')} on
                </span>
                <span>{count(one.peopleIn, 'person', 'people')} signed in</span>
              </li>
            ))}
          </ul>
        </Panel>
      )}
    </div>
  );
}

const dataSays = (days: number): string =>
  days === 0
    ? 'Profiles and personal disks are deleted.'
    : `Profiles and personal disks are kept, and charged for, another ${count(days, 'day', 'days')}.`;

const keptSays = (until: number, deletedAt: number | null, zone: string): string =>
  deletedAt === null
    ? `Their data are kept until ${writeDay(until, zone)}, and deleted then.`
    : `People and settings were deleted on ${writeDay(deletedAt, zone)}, as promised; what was done and charged stays.`;

interface Typed {
  readonly code: string;
  readonly reason: string;
  readonly minutes: number;
  readonly message: string;
}

/** One way to go on: what it does, and the code to be typed where it is asked for. */
function Turn({
  title,
  icon,
  says,
  impact,
  code,
  may,
  danger = false,
  warns = false,
  onTurn,
}: {
  readonly title: string;
  readonly icon: React.ReactNode;
  readonly says: string;
  readonly impact: string;
  /** To be typed; left out: it is only pressed. */
  readonly code?: string;
  readonly may: boolean;
  readonly danger?: boolean;
  /** Whether people who are in get time and a message. */
  readonly warns?: boolean;
  readonly onTurn: (typed: Typed) => Promise<void>;
}) {
  const [typed, setTyped] = useState('');
  const [reason, setReason] = useState('');
  const [minutes, setMinutes] = useState('15');
  const [message, setMessage] = useState('');
  const [fields, setFields] = useState<Readonly<Record<string, string>>>({});
  const [problem, setProblem] = useState<string>();
  const [busy, setBusy] = useState(false);
  const turn = async (): Promise<void> => {
    setBusy(true);
    setProblem(undefined);
    setFields({});
    try {
      await onTurn({ code: typed, reason, minutes: Number(minutes) || 0, message });
      setTyped('');
    } catch (error) {
      const named = error instanceof ApiProblem ? error.fields : {};
      setFields(named);
      if (Object.keys(named).length === 0) setProblem(whyOf(error));
    }
    setBusy(false);
  };
  return (
    <Panel title={title}>
      <div className={styles.turn}>
        <p>{says}</p>
        <ImpactLine line={impact} />
        {may ? (
          <>
            {warns && (
              <div className={styles.pair}>
                <TextField
                  label="Minutes they get"
                  inputMode="numeric"
                  value={minutes}
                  error={fields.minutes}
                  onChange={(event) => setMinutes(event.target.value)}
                />
                <TextField
                  label="What they are told"
                  value={message}
                  error={fields.message}
                  onChange={(event) => setMessage(event.target.value)}
                />
              </div>
            )}
            <TextField
              label="Why"
              placeholder="for the trail"
              value={reason}
              error={fields.reason}
              onChange={(event) => setReason(event.target.value)}
            />
            {code !== undefined && (
              <TextField
                label={`Type ${code}`}
                autoComplete="off"
                spellCheck={false}
                value={typed}
                error={fields.code}
                onChange={(event) => setTyped(event.target.value)}
              />
            )}
            {problem !== undefined && (
              <p role="alert" className={styles.problem}>
                {problem}
              </p>
            )}
            <p className={styles.right}>
              <Button
                kind={danger ? 'danger' : 'main'}
                icon={icon}
                isDisabled={busy || (code !== undefined && typed !== code)}
                onPress={() => void turn()}
              >
                {title} {code ?? ''}
              </Button>
            </p>
          </>
        ) : (
          <p className={styles.help}>{danger ? 'A lead does this.' : 'Who builds does this.'}</p>
        )}
      </div>
    </Panel>
  );
}
