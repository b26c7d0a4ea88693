import type { EnvironmentWithPools, Pool, Host } from '../../contract';
import { count, writeDay } from '../../client/format';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { Empty, Panel } from '../../ui/Panel';
import { Ring } from '../../ui/Ring';
import { Table, type Column } from '../../ui/Table';
import type { Changing } from '../shared/changing';
import { arcOf, ringOf, STATUS } from '../shared/words';
import styles from './Environment.module.css';
import { hostsSay } from '../shared/host-changes';

interface Props {
  readonly environment: EnvironmentWithPools;
  readonly hosts: readonly Host[];
  readonly zone: string;
  /** Undefined: nothing may be changed here. */
  readonly onChange: ((changing: Changing) => void) | undefined;
}

/** A host of one person, with until when it is kept where that person has left. */
type Desktop = Host & { readonly until: number | undefined };

/** Whose is each desktop, of those that are one person's? */
export function Desktops({ environment, hosts, zone, onChange }: Props) {
  const until = new Map(environment.keptDesktops.map((one) => [one.key, one.until]));
  return environment.pools
    .filter(({ assign }) => assign !== null)
    .map((pool) => (
      <OfPool
        key={pool.role}
        pool={pool}
        desktops={hosts
          .filter((one) => one.pool === pool.role)
          .map((host) => ({ ...host, until: until.get(host.key) }))}
        disks={environment.keptDisks.filter((one) => one.pool === pool.role)}
        zone={zone}
        onChange={onChange}
      />
    ));
}

interface PoolProps extends Pick<Props, 'zone' | 'onChange'> {
  readonly pool: Pool;
  readonly desktops: readonly Desktop[];
  readonly disks: EnvironmentWithPools['keptDisks'];
}

const DATA = { name: 'data', label: 'What was kept there', type: 'one' } as const;

function OfPool({ pool, desktops, disks, zone, onChange }: PoolProps) {
  const free = desktops.filter(({ person, until }) => person === '' && until === undefined);
  const taken = desktops.filter(({ person }) => (person ?? '') !== '');
  const says = pool.assign === 'ahead' ? 'named beforehand' : 'whoever signs in first';
  return (
    <Panel
      title={`Desktops of ${pool.role}`}
      side={
        <span className={styles.mend}>
          <small className={styles.quiet}>
            {count(taken.length, 'person has one', 'people have one')}, {free.length} free; {says}
            {pool.ownDiskGiB > 0 && `, ${pool.ownDiskGiB} GiB of their own`}
          </small>
          {onChange && (
            <Button
              onPress={() =>
                onChange({
                  kind: 'assign-desktops',
                  verb: 'Assign',
                  what: `desktops of ${pool.role}`,
                  input: { pool: pool.role, people: [], ready: true },
                  field: {
                    name: 'people',
                    label: 'To whom, by account',
                    type: 'accounts',
                    help: 'one a line; where none is free, one comes from the ready shelf, or is built',
                  },
                })
              }
            >
              Assign…
            </Button>
          )}
        </span>
      }
      flush
    >
      <Table
        rows={desktops}
        columns={columnsIn(zone)}
        idOf={(one) => one.id}
        label={`desktops of ${pool.role}`}
        empty={<Empty says="It has no desktops any more." />}
        {...(onChange
          ? {
              actions: (selected: readonly Desktop[], clear: () => void) =>
                actionsFor(pool, selected).map((changing) => (
                  <Button
                    key={changing.verb}
                    {...(changing.danger === true ? { kind: 'danger' as const } : {})}
                    onPress={() => onChange({ ...changing, done: clear })}
                  >
                    {changing.verb}…
                  </Button>
                )),
            }
          : {})}
      />
      {disks.length > 0 && (
        <ul className={styles.disks} aria-label={`Disks of ${pool.role} that are kept`}>
          {disks.map((disk) => (
            <li key={disk.key}>
              <span>
                disk of <b>{disk.person}</b>, {disk.gib} GiB, put aside until {writeDay(disk.until, zone)}
              </span>
              {onChange && (
                <Button
                  onPress={() =>
                    onChange({
                      kind: 'drop-disks',
                      verb: 'Drop',
                      what: `the disk of ${disk.person}`,
                      input: { disks: [disk.key] },
                      danger: true,
                    })
                  }
                >
                  Drop it now…
                </Button>
              )}
            </li>
          ))}
        </ul>
      )}
    </Panel>
  );
}

const columnsIn = (zone: string): readonly Column<Desktop>[] => [
  {
    id: 'name',
    title: 'Host',
    value: (one) => one.name,
    cell: (one) => <span className="mono">{one.name}</span>,
  },
  {
    id: 'person',
    title: 'Whose',
    value: (one) => one.person ?? '',
    cell: (one) =>
      (one.person ?? '') === '' ? <span className={styles.quiet}>nobody’s yet</span> : <b>{one.person}</b>,
  },
  {
    id: 'status',
    title: 'Status',
    value: (one) => (one.until === undefined ? STATUS[one.status].word : 'left'),
    cell: (one) => (
      <span className={styles.status}>
        <Ring arcs={ringOf([arcOf(one)])} size={22} label="" />
        {one.until === undefined ? (
          <Chip tone={STATUS[one.status].tone}>{STATUS[one.status].word}</Chip>
        ) : (
          <Chip tone="care">left, kept until {writeDay(one.until, zone)}</Chip>
        )}
      </span>
    ),
  },
  {
    id: 'in',
    title: 'Signed in',
    value: (one) => one.sessions,
    cell: (one) => (one.sessions > 0 ? 'yes' : '—'),
  },
  {
    id: 'address',
    title: 'Address',
    value: (one) => one.address,
    cell: (one) => <span className="mono">{one.address}</span>,
  },
];

/** What may be done with those that are chosen: only what can be done with each of them. */
function actionsFor(pool: Pool, selected: readonly Desktop[]): Changing[] {
  const hosts = selected.map(({ id }) => id);
  const [only] = selected.length === 1 ? selected : [];
  const whose = only && (only.person ?? '') !== '' ? ` of ${only.person ?? ''}` : '';
  const what = `${hostsSay(selected)}${whose}`;
  const areTaken = selected.every(({ person }) => (person ?? '') !== '');
  const areHere = areTaken && selected.every(({ until }) => until === undefined);
  const haveLeft = selected.every(({ until }) => until !== undefined);
  const choices = pool.ownDiskGiB > 0 ? ['kept', 'archived', 'wiped'] : ['kept'];
  return [
    ...(only && !areTaken && only.until === undefined
      ? [
          {
            kind: 'assign-desktops',
            verb: 'Assign',
            what,
            input: { pool: pool.role, people: [], host: only.id },
            field: { name: 'people', label: 'To whom, by account', type: 'accounts' } as const,
          },
        ]
      : []),
    ...(only && areTaken
      ? [
          {
            kind: 'move-desktop',
            verb: 'Move',
            what,
            input: { host: only.id, person: '', data: 'kept' },
            field: { name: 'person', label: 'To whom, by account', type: 'text' } as const,
            more: [{ ...DATA, options: choices }],
          },
        ]
      : []),
    { kind: 'rebuild-desktops', verb: 'Rebuild', what, input: { hosts } },
    ...(areHere ? [{ kind: 'keep-desktops', verb: 'Has left', what, input: { hosts } }] : []),
    ...(haveLeft ? [{ kind: 'give-back', verb: 'Is back', what, input: { hosts } }] : []),
    ...(areTaken
      ? [
          {
            kind: 'end-desktops',
            verb: 'End',
            what,
            input: { hosts, data: pool.ownDiskGiB > 0 ? 'archived' : 'wiped', host: 'stays' },
            danger: true,
            field: { ...DATA, options: pool.ownDiskGiB > 0 ? ['archived', 'wiped'] : ['wiped'] },
            more: [{ name: 'host', label: 'The host', type: 'one', options: ['stays', 'goes'] } as const],
          },
        ]
      : []),
  ];
}
