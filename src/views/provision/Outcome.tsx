import type { SizedPool } from '../../core/changes';
import type { Facts } from '../../core/facts';
import { HOURS_A_MONTH, type CostLine } from '../../core/rating';
import { writeSize } from '../../core/machines';
import { count, writeFigure, writeMoney, writeSpan, writePrice } from '../../client/format';
import { Panel } from '../../ui/Panel';
import { Ring, type RingArc } from '../../ui/Ring';
import { Checks } from '../shared/Checks';
import { TimeLine } from '../shared/TimeLine';
import { hostsOf } from './hosts';
import { NodeMap } from './NodeMap';
import type { Outlook } from './facts';
import styles from './Provision.module.css';

interface Props {
  readonly outlook: Outlook;
  readonly facts: Facts;
  readonly pools: readonly SizedPool[];
}

const METER_NAME: Readonly<Record<string, string>> = {
  host: 'Hosts',
  disk: 'Disks',
  share: 'Profiles',
  licence: 'Licences',
};

/** The first and the last of a pool's computer names. */
function Names({ names, first }: { readonly names: readonly string[]; readonly first: boolean }) {
  return (
    <>
      {!first && ', '}
      <span className="mono">{names[0] ?? '—'}</span>
      {names.length > 1 && (
        <>
          {' to '}
          <span className="mono">{names.at(-1)}</span>
        </>
      )}
    </>
  );
}

/** What will come of the choices: hosts, names, places, money, time, checks. */
export function Outcome({ outlook, facts, pools }: Props) {
  const hosts = hostsOf(outlook, facts);
  const cidrOf = (kind: string): string =>
    outlook.wanted
      .filter((one) => one.kind === kind)
      .map((one) => String(one.attributes.cidr))
      .join(' ') || '—';
  return (
    <div className={styles.outcome}>
      <Panel>
        <div className={styles.picture}>
          <Ring
            arcs={hosts.length === 0 ? [] : pools.flatMap((pool) => arcsOf(pool))}
            size={168}
            label={`${hosts.length} hosts to be made`}
            unit={hosts.length === 1 ? 'host' : 'hosts'}
          >
            {hosts.length}
          </Ring>
          <div className={styles.summary}>
            {pools.map((pool) => (
              <PoolLine key={pool.spec.role} pool={pool} alone={pools.length === 1} />
            ))}
            <p>
              {pools.map((pool, index) => (
                <Names
                  key={pool.spec.role}
                  names={hosts.filter((one) => one.pool === pool.spec.role).map((one) => one.name)}
                  first={index === 0}
                />
              ))}
            </p>
            <p>
              {pools.length === 1 ? 'subnet' : 'subnets'} <span className="mono">{cidrOf('subnet')}</span>,
              room for {writeFigure(outlook.room)}, in <span className="mono">{cidrOf('network')}</span>
            </p>
            <p>
              about <b>{writeSpan(outlook.seconds)}</b> for {count(outlook.steps, 'step', 'steps')}
            </p>
          </div>
        </div>
        {hosts.length > 0 && (
          <details className={styles.hosts}>
            <summary>Names and addresses</summary>
            <ul>
              {hosts.map((host) => (
                <li key={host.name} className="mono">
                  {host.name} <span>{host.address}</span> <span>{host.node ?? ''}</span>
                </li>
              ))}
            </ul>
          </details>
        )}
      </Panel>
      <div className={styles.two}>
        <Panel
          title={
            facts.site.kind === 'own nodes'
              ? `On the nodes of ${facts.site.name}`
              : `Quota at ${facts.site.name}`
          }
        >
          <NodeMap facts={facts} outlook={outlook} />
        </Panel>
        <Panel title="A month" side={<b className={styles.total}>{writeMoney(outlook.monthly)}</b>}>
          <table className={styles.cost}>
            <tbody>
              {outlook.cost.map((line) => (
                <tr key={`${line.meter} ${line.size ?? ''}`}>
                  <th scope="row">{METER_NAME[line.meter] ?? line.meter}</th>
                  <td>{reckoning(line)}</td>
                  <td>{writeMoney(line.amount)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Panel>
      </div>
      {outlook.steps > 0 && (
        <Panel title="Time line" side={<b className={styles.total}>{writeSpan(outlook.seconds)}</b>}>
          <TimeLine lanes={outlook.lanes} finish={outlook.seconds} />
        </Panel>
      )}
      <Panel title="Preflight">
        <Checks checks={outlook.checks} customer={facts.customer.code} zone={facts.customer.zone} />
      </Panel>
    </div>
  );
}

/** As many arcs as hosts, filled as they are when everyone who comes at once is in. */
function arcsOf({ chosen, people, spec }: SizedPool): RingArc[] {
  if (!chosen) return [];
  const fill = Math.min(1, (people * spec.concurrency) / (chosen.seats * chosen.hosts));
  return Array.from({ length: chosen.hosts }, () => ({ look: 'full', parts: 1, fill }));
}

function PoolLine({ pool, alone }: { readonly pool: SizedPool; readonly alone: boolean }) {
  const { chosen, spec } = pool;
  if (!chosen) return <p>{alone ? 'No hosts yet: see the checks.' : `${spec.role}: no hosts yet`}</p>;
  return (
    <p>
      {!alone && `${spec.role}: ${chosen.hosts} × `}
      <b>{writeSize(chosen.size)}</b>
      {alone && ' each'}, {count(chosen.seats, 'seat', 'seats')}, {spec.image}
    </p>
  );
}

/** How an amount comes about: `5 × 730 h × 0.0568`, `640 × 0.07 a GiB-month`. */
function reckoning({ meter, quantity, price, unit, amount: { currency } }: CostLine): string {
  if (meter === 'host')
    return `${writeFigure(quantity)} × ${HOURS_A_MONTH} h × ${writePrice(price, currency)} a ${unit}`;
  return `${writeFigure(quantity)} × ${writePrice(price, currency)} a ${unit}`;
}

/** A rate without the zeros that the database keeps. */
