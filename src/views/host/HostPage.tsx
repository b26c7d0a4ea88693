import type { HostDetail, HostSignTold } from '../../contract';
import { Hand } from 'lucide-react';
import { useState } from 'react';
import { get } from '../../client/api';
import { count, writeSpan, writeWhen } from '../../client/format';
import { useLive } from '../../client/live';
import { writeSize, type MachineSize } from '../../core/machines';
import { Button } from '../../ui/Button';
import { Chip, type ChipTone } from '../../ui/Chip';
import type { MarkLook } from '../../ui/Mark';
import { Empty, Figure, Figures, Panel } from '../../ui/Panel';
import { Ring } from '../../ui/Ring';
import type { Changing } from '../shared/changing';
import { Confirm } from '../shared/Confirm';
import { changingHosts, HOST_CHANGES } from '../shared/host-changes';
import { Recent, Times } from '../shared/Recent';
import { PersonButton, SessionActButtons, useSessionActs } from '../shared/SessionActs';
import { overrideLines } from '../shared/overrides';
import { arcOf, ringOf, STATUS } from '../shared/words';
import styles from './HostPage.module.css';
import { Vitals } from './Vitals';

interface Props {
  readonly customer: {
    readonly code: string;
    readonly name: string;
    readonly mark: MarkLook;
    readonly zone: string;
  };
  readonly initial: HostDetail;
  readonly sizes: readonly MachineSize[];
  readonly mayChange: boolean;
}

/** How is this host, who is on it, and what helps? */
export function HostPage({ customer, initial, sizes, mayChange }: Props) {
  const { code, zone } = customer;
  const { value, again } = useLive(
    {
      key: `host ${initial.host.id}`,
      read: () => get('/customers/{customer}/hosts/{host}', { customer: code, host: initial.host.id }),
    },
    initial,
    `/customers/${code}/events`,
    (change) => ['environment', 'run', 'summary'].includes(change.topic),
  );
  const { host, sessions } = value;
  const { pool: role } = host;
  const [changing, setChanging] = useState<Changing>();
  const acts = useSessionActs(mayChange);
  const open = value.signs.filter((one) => one.endedAt === null);
  const over = value.signs.filter((one) => one.endedAt !== null);
  const size = sizes.find((one) => one.key === host.size);
  const { word, tone } = STATUS[host.status];
  return (
    <div className={styles.page}>
      <header className={styles.head}>
        <Ring
          arcs={ringOf([arcOf(host)])}
          size={128}
          label={`${sessions.length} of ${host.seats} seats taken`}
          unit={`of ${host.seats}`}
        >
          {host.sessions}
        </Ring>
        <div className={styles.about}>
          <h1>
            <span className="mono">{host.name}</span>
            <Chip tone={tone}>{word}</Chip>
            {host.drift.map((says) => (
              <Chip key={says} tone="care">
                {says}
              </Chip>
            ))}
          </h1>
          <p className={styles.quiet}>
            {role} of{' '}
            <a href={`/customers/${code}/environments/${host.environmentId}`}>{value.environment}</a>,{' '}
            {value.siteName}
            {host.node !== null && (
              <>
                , node <span className="mono">{host.node}</span>
              </>
            )}
            , <span className="mono">{host.address}</span>
            {host.person !== null && host.person !== '' && (
              <>
                , of <span className="mono">{host.person}</span>
              </>
            )}
          </p>
          {overrideLines(host, zone).map((says) => (
            <p key={says} className={styles.override}>
              <Hand size={15} aria-hidden="true" /> {says}
            </p>
          ))}
          <Figures>
            <Figure value={size ? writeSize(size) : host.size} label="size" />
            <Figure value={`${host.diskGiB} GiB`} label="disk" />
            <Figure value={Math.max(0, host.seats - host.sessions)} label="seats free" />
          </Figures>
        </div>
        {mayChange && (
          <div className={styles.acts}>
            {HOST_CHANGES.filter(({ fits }) => fits(host)).map((one) => (
              <Button
                key={one.kind}
                icon={<one.icon size={15} aria-hidden="true" />}
                onPress={() => setChanging(changingHosts(one, [host], zone))}
              >
                {one.verb}
              </Button>
            ))}
          </div>
        )}
      </header>
      {acts.programs}
      <div className={styles.columns}>
        <div className={styles.stack}>
          <Panel title={open.length === 0 ? 'It is well' : 'What it shows'}>
            {open.length === 0 && (
              <p className={styles.quiet}>
                {host.status === 'off'
                  ? 'It is off, and says nothing.'
                  : 'Nothing that anyone should look at.'}
              </p>
            )}
            <ul className={styles.signs}>
              {open.map((sign) => (
                <Sign
                  key={sign.id}
                  sign={sign}
                  zone={zone}
                  onMend={mayChange ? mendOf(sign, value, zone, setChanging) : undefined}
                />
              ))}
            </ul>
            {over.length > 0 && (
              <details className={styles.over}>
                <summary>{count(over.length, 'sign is over', 'signs are over')}</summary>
                <ul>
                  {over.map((one) => (
                    <li key={one.id}>
                      <span>{writeWhen(one.since, zone)}</span> {one.says}
                      <small> for {writeSpan(((one.endedAt ?? one.since) - one.since) / 1_000)}</small>
                    </li>
                  ))}
                </ul>
              </details>
            )}
          </Panel>
          <Panel
            title={count(sessions.length, 'person in', 'people in')}
            side={
              acts.begin &&
              sessions.length > 0 && (
                <span className={styles.sideActs}>
                  <SessionActButtons sessions={sessions} begin={acts.begin} move={acts.move} />
                </span>
              )
            }
          >
            {sessions.length === 0 && <Empty says="Nobody is in on it." />}
            <ul className={styles.sessions}>
              {sessions.map((one) => (
                <li key={one.id}>
                  <Chip tone={one.state === 'active' ? 'good' : 'quiet'}>{one.state}</Chip>
                  <PersonButton className={styles.person} session={one} onShow={acts.show} />
                  <span className={styles.quiet}>
                    since {writeWhen(one.state === 'idle' ? one.stateSince : one.since, zone)}
                  </span>
                </li>
              ))}
            </ul>
          </Panel>
        </div>
        <div className={styles.stack}>
          <Vitals code={code} host={host.id} isOn={host.status !== 'off'} />
          {value.before.length > 0 && (
            <Panel title="Was in before">
              <Times
                zone={zone}
                of={value.before.map((one) => ({
                  key: `${one.account} ${one.since}`,
                  at: one.endedAt,
                  what: one.person ?? one.account,
                  beneath: `for ${writeSpan((one.endedAt - one.since) / 1_000)}`,
                }))}
              />
            </Panel>
          )}
          <Recent code={code} zone={zone} entries={value.recent} none="Nothing was done with it." />
        </div>
      </div>
      {acts.dialog}
      {changing && (
        <Confirm
          key={changing.kind}
          customer={customer}
          environment={host.environmentId}
          change={changing}
          onClose={() => setChanging(undefined)}
          onBegun={again}
        />
      )}
    </div>
  );
}

const HARMS: Readonly<Record<HostSignTold['harm'], { readonly tone: ChipTone; readonly word: string }>> = {
  out: { tone: 'bad', word: 'keeps people out' },
  slow: { tone: 'care', word: 'slows people' },
  soon: { tone: 'quiet', word: 'hits nobody yet' },
};

function Sign({
  sign,
  zone,
  onMend,
}: {
  readonly sign: HostSignTold;
  readonly zone: string;
  readonly onMend: { readonly verb: string; readonly press: () => void } | undefined;
}) {
  const { tone, word } = HARMS[sign.harm];
  return (
    <li>
      <Chip tone={tone}>{word}</Chip>
      <div>
        <b>{sign.says}</b>
        <p className={styles.quiet}>
          since {writeWhen(sign.since, zone)}
          {sign.people > 0 &&
            sign.harm !== 'soon' &&
            `, hits ${count(sign.people, 'person', 'people')}`}. {sign.helps}
        </p>
      </div>
      {onMend && <Button onPress={onMend.press}>{onMend.verb}</Button>}
    </li>
  );
}

/** The change that helps; undefined where none of ours does, or it is so already. */
function mendOf(
  { mend }: HostSignTold,
  { host }: HostDetail,
  zone: string,
  open: (changing: Changing) => void,
): { readonly verb: string; readonly press: () => void } | undefined {
  const { pool: role } = host;
  if (mend === 'grow-disk')
    return {
      verb: 'Grow the disk',
      press: () =>
        open({
          kind: 'grow-disk',
          verb: 'Grow the disk',
          what: `of ${role}`,
          input: { pool: role, diskGiB: host.diskGiB * 2 },
          field: {
            name: 'diskGiB',
            label: 'GiB on each host',
            type: 'number',
            min: host.diskGiB,
            max: 16_384,
            help: 'the file system grows with it; nobody is disturbed',
          },
        }),
    };
  const change = HOST_CHANGES.find(({ kind }) => kind === mend);
  return change?.fits(host)
    ? { verb: change.verb, press: () => open(changingHosts(change, [host], zone)) }
    : undefined;
}
