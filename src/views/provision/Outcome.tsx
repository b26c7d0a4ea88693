import type { ProvisionGround, TemplateSpec } from '../../core/ground';
import type { ProvisionProposal } from '../../core/proposal';
import { HOURS_A_MONTH, type CostLine } from '../../core/rating';
import { writeSize } from '../../core/sizing';
import { count, writeMoney, writeSpan } from '../../client/format';
import { Panel } from '../../ui/Panel';
import { Ring } from '../../ui/Ring';
import { NodeMap } from './NodeMap';
import { Preflight } from './Preflight';
import styles from './Provision.module.css';

interface Props {
  readonly proposal: ProvisionProposal;
  readonly ground: ProvisionGround;
  readonly spec: TemplateSpec;
}

const METER_NAME = {
  host: 'Hosts, always on',
  disk: 'Disks',
  share: 'Profiles',
  licence: 'Licences',
} as const;

/** What will come of the choices: hosts, names, places, money, time, checks. */
export function Outcome({ proposal, ground, spec }: Props) {
  const { chosen, hosts } = proposal;
  const seats = (chosen?.seats ?? 0) * hosts.length;
  return (
    <div className={styles.outcome}>
      <Panel>
        <div className={styles.picture}>
          <Ring
            arcs={hosts.map(() => ({
              standing: 'serving' as const,
              hosts: 1,
              fill: seats === 0 ? 0 : proposal.impact.people / seats,
            }))}
            size={168}
            label={`${hosts.length} hosts to be made`}
            unit={hosts.length === 1 ? 'host' : 'hosts'}
          >
            {hosts.length}
          </Ring>
          <div className={styles.summary}>
            {chosen ? (
              <p>
                <b>{writeSize(chosen.size)}</b> each, {chosen.seats} seats, {spec.image}
              </p>
            ) : (
              <p>No hosts yet: see the checks.</p>
            )}
            <p>
              <span className="mono">{hosts[0]?.name ?? '—'}</span>
              {hosts.length > 1 && (
                <>
                  {' to '}
                  <span className="mono">{hosts.at(-1)?.name}</span>
                </>
              )}
            </p>
            <p>
              subnet <span className="mono">{proposal.subnet ?? '—'}</span>, room for {proposal.room}, in{' '}
              <span className="mono">{proposal.network ?? '—'}</span>
            </p>
            <p>
              about <b>{writeSpan(proposal.seconds)}</b> for {count(proposal.steps.length, 'step', 'steps')}
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
            ground.site.kind === 'own nodes'
              ? `On the nodes of ${ground.site.name}`
              : `Quota at ${ground.site.name}`
          }
        >
          <NodeMap site={ground.site} proposal={proposal} />
        </Panel>
        <Panel title="A month" side={<b className={styles.total}>{writeMoney(proposal.monthly)}</b>}>
          <table className={styles.cost}>
            <tbody>
              {proposal.cost.map((line) => (
                <tr key={line.meter}>
                  <th scope="row">{METER_NAME[line.meter]}</th>
                  <td>{reckoning(line)}</td>
                  <td>{writeMoney(line.amount)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Panel>
      </div>
      <Panel title="Preflight">
        <Preflight checks={proposal.checks} />
      </Panel>
    </div>
  );
}

/** How an amount comes about: `5 × 730 h × 0.0568`, `640 × 0.07 a GiB-month`. */
function reckoning({ meter, quantity, price, unit }: CostLine): string {
  if (meter === 'host') return `${quantity} × ${HOURS_A_MONTH} h × ${writePrice(price)}`;
  return `${quantity} × ${writePrice(price)} a ${unit}`;
}

/** A rate without the zeros that the database keeps. */
const writePrice = (price: string): string => price.replace(/(\.\d*?[1-9])0+$|\.0+$/, '$1');
