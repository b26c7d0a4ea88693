import type { Pool as PoolRow, Host } from '../../contract';
import { Disc3, HardDrive, Minus, PackageOpen, Plus, Scaling, Trash2 } from 'lucide-react';
import { writeSize, type MachineSize } from '../../core/machines';
import { count, writeFigure } from '../../client/format';
import { Button } from '../../ui/Button';
import { Panel } from '../../ui/Panel';
import { Ring } from '../../ui/Ring';
import type { Changing } from '../shared/changing';
import { arcOf, ringOf } from '../shared/words';
import styles from './Environment.module.css';

interface Props {
  readonly pools: readonly PoolRow[];
  readonly hosts: readonly Host[];
  readonly sizes: readonly MachineSize[];
  /** What hosts may be made of at the site. */
  readonly images: readonly string[];
  /** Undefined: nothing may be changed here. */
  readonly onChange: ((changing: Changing) => void) | undefined;
}

/** Each pool: how it is made, how full it is, and what can be made of it. */
export function Pools({ pools, hosts, sizes, images, onChange }: Props) {
  return (
    <div className={styles.pools}>
      {pools.map((pool) => (
        <Pool
          key={pool.role}
          pool={pool}
          hosts={hosts.filter((one) => one.pool === pool.role)}
          sizes={sizes}
          images={images}
          isOnly={pools.length === 1}
          onChange={onChange}
        />
      ))}
    </div>
  );
}

function Pool({
  pool,
  hosts,
  sizes,
  images,
  isOnly,
  onChange,
}: Omit<Props, 'pools'> & { readonly pool: PoolRow; readonly isOnly: boolean }) {
  const size = sizes.find((one) => one.key === pool.size);
  const people = hosts.reduce((sum, host) => sum + host.sessions, 0);
  return (
    <Panel>
      <div className={styles.pool}>
        <Ring
          arcs={ringOf(hosts.map(arcOf))}
          size={64}
          label={`${count(people, 'person', 'people')} in on ${count(hosts.length, 'host', 'hosts')}`}
        >
          {people}
        </Ring>
        <div>
          <h2>{pool.role}</h2>
          <p>
            <b>
              {pool.hosts} × {size ? writeSize(size) : pool.size}
            </b>
            , {count(pool.seats, 'seat', 'seats')} each, {pool.arrival}; {pool.image}
            {pool.track === 'trial' && ', tries new versions first'}
          </p>
          <p className={styles.quiet}>
            {writeFigure(pool.diskGiB)} GiB disks, {writeFigure(pool.shareGiB)} GiB profiles for{' '}
            {count(pool.people, 'person', 'people')}; subnet <span className="mono">{pool.subnet}</span>, room
            for {pool.ceiling}
          </p>
          <p className={styles.quiet}>{pool.items.map((item) => item.name).join(', ')}</p>
        </div>
      </div>
      {onChange && (
        <div className={styles.poolActions}>
          {CHANGES.map(({ icon: Icon, label, changing }) => {
            const change = changing(pool, sizes, images, isOnly);
            return (
              change && (
                <Button
                  key={label}
                  icon={<Icon size={15} aria-hidden="true" />}
                  onPress={() => onChange(change)}
                >
                  {label}
                </Button>
              )
            );
          })}
        </div>
      )}
    </Panel>
  );
}

interface PoolChange {
  readonly icon: typeof Plus;
  readonly label: string;
  /** Undefined where it cannot be. */
  readonly changing: (
    pool: PoolRow,
    sizes: readonly MachineSize[],
    images: readonly string[],
    isOnly: boolean,
  ) => Changing | undefined;
}

/** What can be made of a pool; each opens the one dialog. */
const CHANGES: readonly PoolChange[] = [
  {
    icon: Plus,
    label: 'Add hosts',
    changing: ({ role, hosts, ceiling }) =>
      hosts >= ceiling
        ? undefined
        : {
            kind: 'add-hosts',
            verb: 'Add hosts',
            what: `to ${role}`,
            input: { pool: role, hosts: 1 },
            field: {
              name: 'hosts',
              label: 'How many more',
              type: 'number',
              min: 1,
              max: ceiling - hosts,
              help: `${role} has ${hosts} and room for ${ceiling}`,
            },
          },
  },
  {
    icon: PackageOpen,
    label: 'Add from the shelf',
    changing: ({ role, ceiling, hosts }) =>
      hosts >= ceiling
        ? undefined
        : {
            kind: 'add-hosts',
            verb: 'Add hosts',
            what: `from the ready shelf to ${role}`,
            input: { pool: role, hosts: 1, ready: true },
            field: {
              name: 'hosts',
              label: 'How many more',
              type: 'number',
              min: 1,
              max: ceiling - hosts,
              help: 'as many of them as are ready; the others are built',
            },
          },
  },
  {
    icon: Minus,
    label: 'Take away',
    changing: ({ role, hosts }) =>
      hosts < 2
        ? undefined
        : {
            kind: 'take-hosts',
            verb: 'Take hosts away',
            what: `from ${role}`,
            input: { pool: role, hosts: 1 },
            danger: true,
            field: {
              name: 'hosts',
              label: 'How many',
              type: 'number',
              min: 1,
              max: hosts - 1,
              help: 'the emptiest go first, drained before',
            },
          },
  },
  {
    icon: Scaling,
    label: 'Resize',
    changing: ({ role, size }, sizes) => {
      // The next larger one, so that nobody makes it smaller by leaving the field as it is.
      const own = sizes.findIndex((one) => one.key === size);
      const other = sizes[own + 1] ?? sizes[own - 1];
      return (
        other && {
          kind: 'resize',
          verb: 'Resize',
          what: role,
          input: { pool: role, size: other.key },
          field: {
            name: 'size',
            label: 'Size',
            type: 'size',
            sizes: sizes.filter((one) => one.key !== size),
          },
        }
      );
    },
  },
  {
    icon: HardDrive,
    label: 'Grow the disk',
    changing: ({ role, diskGiB }) => ({
      kind: 'grow-disk',
      verb: 'Grow the disk',
      what: `of ${role}`,
      input: { pool: role, diskGiB: diskGiB * 2 },
      field: {
        name: 'diskGiB',
        label: 'GiB on each host',
        type: 'number',
        min: diskGiB,
        max: 16_384,
        help: 'the file system grows with it; nobody is disturbed',
      },
    }),
  },
  {
    icon: Disc3,
    label: 'Another image',
    changing: ({ role, image }, _sizes, images) => {
      const others = images.filter((one) => one !== image);
      // The newest version of the line that it is on, where there is one.
      const newest = others.filter((one) => one.split('@')[0] === image.split('@')[0]).at(-1);
      const [first] = newest === undefined ? others.slice(-1) : [newest];
      return first === undefined
        ? undefined
        : {
            kind: 'use-image',
            verb: 'Make anew',
            what: `the hosts of ${role}`,
            input: { pool: role, image: first },
            field: { name: 'image', label: 'Of', type: 'one', options: others },
          };
    },
  },
  {
    icon: Trash2,
    label: 'Retire the pool',
    // The last one goes with its environment.
    changing: ({ role }, _sizes, _images, isOnly) =>
      isOnly
        ? undefined
        : {
            kind: 'retire-pool',
            verb: 'Retire',
            what: `pool ${role}`,
            input: { pool: role, data: 'kept' },
            danger: true,
            field: { name: 'data', label: 'Profiles', type: 'one', options: ['kept', 'destroyed'] },
          },
  },
];
