import type { DeskMessage, Item, Mark, PersonCosts, PersonDetail, WhyLinkTold } from '../../contract';
import { Fragment } from 'react';
import { ChevronRight, Eye } from 'lucide-react';
import { get } from '../../client/api';
import { count, writeSpan, writeWhen } from '../../client/format';
import { useLive } from '../../client/live';
import { ButtonLink } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { Empty, Panel } from '../../ui/Panel';
import { DeskMessages } from '../shared/DeskMessages';
import { ItemIcon } from '../shared/ItemIcon';
import { Recent, Times } from '../shared/Recent';
import { SessionActButtons, useSessionActs, type SessionActs } from '../shared/SessionActs';
import { STATUS } from '../shared/words';
import { PersonCost } from './PersonCost';
import { MendLink } from './MendLink';
import styles from './PersonPage.module.css';
import { EndSignIns } from './EndSignIns';
import { Why } from './Why';

interface Props {
  readonly code: string;
  readonly zone: string;
  readonly mark: Mark;
  readonly initial: PersonDetail;
  readonly messages: readonly DeskMessage[];
  readonly costs: PersonCosts;
  readonly mayChange: boolean;
}

/** What does this person see, through what, and what keeps them from the rest? */
export function PersonPage({ code, zone, mark, initial, messages, costs, mayChange }: Props) {
  const { value: person } = useLive(
    {
      key: `person ${initial.id}`,
      read: () => get('/customers/{customer}/people/{person}', { customer: code, person: initial.id }),
    },
    initial,
    `/customers/${code}/events`,
    (change) => change.topic === 'people' || change.topic === 'environment',
  );
  const name = `${person.given} ${person.family}`.trim();
  const acts = useSessionActs(mayChange);
  return (
    <div className={styles.page}>
      <header className={styles.head}>
        <Monogram given={person.given} family={person.family} />
        <div>
          <h2>{name}</h2>
          <p>
            <span className="mono">{person.account}</span> · {person.mail}
            {person.unit !== '' && <> · {person.unit.replaceAll('/', ' › ')}</>}
          </p>
        </div>
        {person.leftAt === null ? (
          <Chip tone={person.sessions.length > 0 ? 'good' : 'quiet'}>
            {person.sessions.length > 0 ? 'signed in' : 'not signed in'}
          </Chip>
        ) : (
          <Chip tone="bad">left {writeWhen(person.leftAt, zone)}</Chip>
        )}
        {person.leftAt === null && (
          <ButtonLink
            kind="plain"
            href={`/customers/${code}/people/${person.id}/desk`}
            icon={<Eye size={16} aria-hidden="true" />}
          >
            See their desk
          </ButtonLink>
        )}
        {person.leftAt === null && mayChange && <EndSignIns code={code} person={person.id} />}
      </header>
      {acts.programs}
      <div className={styles.columns}>
        <div className={styles.stack}>
          <Panel title={`Sees ${count(person.items.length, 'item', 'items')}`}>
            {person.items.length === 0 && (
              <Empty
                says={
                  person.leftAt === null
                    ? 'Nothing is granted to them.'
                    : 'Who has left sees nothing. What is theirs is kept as the plan says.'
                }
              />
            )}
            <ul className={styles.items}>
              {person.items.map(({ item, through, missing }) => (
                <li key={`${item.environmentId} ${item.pool} ${item.name}`}>
                  <ItemIcon item={item} />
                  <div className={styles.what}>
                    <ItemName code={code} item={item} />
                    {through.map((one, n) => (
                      <Through key={n} name={name} item={item} through={one} zone={zone} />
                    ))}
                    {missing && (
                      <Missing
                        code={code}
                        item={item}
                        person={person}
                        missing={missing}
                        mayChange={mayChange}
                      />
                    )}
                  </div>
                  {missing ? <Chip tone="bad">kept out</Chip> : <Chip tone="good">gets in</Chip>}
                </li>
              ))}
            </ul>
          </Panel>
          {person.leftAt === null && person.others.length > 0 && (
            <Panel title={`Not theirs: ${person.others.length}`}>
              <ul className={styles.items}>
                {person.others.map((item) => (
                  <li key={`${item.environmentId} ${item.pool} ${item.name}`}>
                    <ItemIcon item={item} size={32} />
                    <div className={styles.what}>
                      <ItemName code={code} item={item} />
                      <Why code={code} person={person} item={item} mayChange={mayChange} />
                    </div>
                  </li>
                ))}
              </ul>
            </Panel>
          )}
        </div>
        <div className={styles.stack}>
          <Now
            code={code}
            person={person}
            zone={zone}
            begin={acts.begin}
            move={acts.move}
            onShow={acts.show}
          />
          {person.desktops.length > 0 && (
            <Panel title="Their own desktop">
              <ul className={styles.plain}>
                {person.desktops.map((one) => (
                  <li key={one.host}>
                    <Chip tone={one.status === 'serving' ? 'good' : 'quiet'}>{one.status}</Chip>
                    <a className="mono" href={`/customers/${code}/hosts/${one.hostId}`}>
                      {one.host}
                    </a>
                    <span className={styles.quiet}>
                      {one.pool} of {one.environment}
                    </span>
                  </li>
                ))}
              </ul>
            </Panel>
          )}
          <PersonCost costs={costs} />
          {person.before.length > 0 && (
            <Panel title="Was in before">
              <Times
                zone={zone}
                of={person.before.map((one) => ({
                  key: `${one.host} ${one.since}`,
                  at: one.endedAt,
                  what: <span className="mono">{one.host}</span>,
                  beneath: `for ${writeSpan((one.endedAt - one.since) / 1_000)}`,
                }))}
              />
            </Panel>
          )}
          {person.leftAt === null && (
            <DeskMessages
              code={code}
              zone={zone}
              mark={mark}
              person={{ id: person.id, name }}
              initial={messages}
              mayChange={mayChange}
            />
          )}
          <Recent code={code} zone={zone} entries={person.recent} none="Nothing of theirs has changed." />
          <Panel title={count(person.groups.length, 'group', 'groups')}>
            {person.groups.length === 0 && <p className={styles.quiet}>They are in none.</p>}
            <ul className={styles.plain}>
              {person.groups.map((group) => (
                <li key={group.id}>
                  <a href={`/customers/${code}/people?group=${group.id}`}>{group.name}</a>
                  {group.way.length > 1 && (
                    <span className={styles.quiet}>through {group.way.slice(0, -1).join(' in ')}</span>
                  )}
                </li>
              ))}
            </ul>
          </Panel>
        </div>
      </div>
      {acts.dialog}
    </div>
  );
}

/** Where they are in, how that host is, and what is done most when they call. */
function Now({
  code,
  person,
  zone,
  begin,
  move,
  onShow,
}: {
  readonly code: string;
  readonly person: PersonDetail;
  readonly zone: string;
  readonly begin: SessionActs['begin'];
  readonly move: SessionActs['move'];
  readonly onShow: SessionActs['show'];
}) {
  return (
    <Panel title="Sessions">
      {person.sessions.length === 0 ? (
        <p className={styles.quiet}>None at the moment.</p>
      ) : (
        <>
          <ul className={styles.plain}>
            {person.sessions.map((one) => (
              <li key={one.id}>
                <Chip tone={one.state === 'active' ? 'good' : 'quiet'}>{one.state}</Chip>
                <HostSays
                  code={code}
                  host={person.hosts.find(({ name }) => name === one.host)}
                  name={one.host}
                />
                {onShow && (
                  <button type="button" className={styles.runs} onClick={() => onShow(one)}>
                    What it runs
                  </button>
                )}
                <span className={styles.quiet}>since {writeWhen(one.since, zone)}</span>
              </li>
            ))}
          </ul>
          {begin && (
            <div className={styles.acts}>
              <SessionActButtons sessions={person.sessions} begin={begin} move={move} />
            </div>
          )}
        </>
      )}
    </Panel>
  );
}

/** The host that they are on, and how it is; its name alone where it is unknown. */
function HostSays({
  code,
  host,
  name,
}: {
  readonly code: string;
  readonly host: PersonDetail['hosts'][number] | undefined;
  readonly name: string;
}) {
  if (!host) return <span className="mono">{name}</span>;
  const { word, tone } = STATUS[host.status];
  return (
    <>
      <a className="mono" href={`/customers/${code}/hosts/${host.id}`}>
        {name}
      </a>
      <Chip tone={tone}>{word}</Chip>
      <span className={styles.quiet}>
        {host.sessions} of {host.seats} in
      </span>
    </>
  );
}

const Monogram = ({ given, family }: { readonly given: string; readonly family: string }) => (
  <span className={styles.monogram} aria-hidden="true">
    {[given, family].map((part) => [...part][0] ?? '').join('')}
  </span>
);

const ItemName = ({ code, item }: { readonly code: string; readonly item: Item }) => (
  <p className={styles.name}>
    <b>{item.name}</b>{' '}
    <a href={`/customers/${code}/environments/${item.environmentId}`}>
      {item.pool} of {item.environment}
    </a>
  </p>
);

/** The chain from the person to the item: each group a link of it. */
function Through({
  name,
  item,
  through,
  zone,
}: {
  readonly name: string;
  readonly item: Item;
  readonly through: PersonDetail['items'][number]['through'][number];
  readonly zone: string;
}) {
  const steps = through.to === 'everyone' ? ['everyone'] : through.way;
  return (
    <p className={styles.chain}>
      <span>{name}</span>
      {[...steps, item.name].map((step, n) => (
        <Fragment key={n}>
          <ChevronRight size={13} aria-label="leads to" />
          <span>{step}</span>
        </Fragment>
      ))}
      {through.until !== null && <small>until {writeWhen(through.until, zone)}</small>}
    </p>
  );
}

function Missing({
  code,
  item,
  person,
  missing,
  mayChange,
}: {
  readonly code: string;
  readonly item: Item;
  readonly person: PersonDetail;
  readonly missing: WhyLinkTold;
  readonly mayChange: boolean;
}) {
  return (
    <p className={styles.missing}>
      {missing.says}
      {mayChange && <MendLink code={code} item={item} person={person} mend={missing.mend} />}
    </p>
  );
}
