import { expectedSeconds, type ProposedStep, type StepKind } from '../proposal';

/** What an environment has, by name. */
export interface Standing {
  readonly environment: string;
  readonly pool: string;
  readonly hosts: readonly string[];
  /** Whether anything else of the customer at this site still uses its network. */
  readonly networkShared: boolean;
}

/** What is done to each host, in order: the reverse of how it was made. */
export const RETIRE_STAGES = ['unregister', 'leave', 'remove-host'] as const satisfies readonly StepKind[];

/**
 * The steps that take an environment away, in the reverse order of its making: people are warned, sessions closed,
 * items withdrawn, then hosts, pool, share, subnet, network, and at last the proof that nothing is left.
 */
export function proposeRetire(standing: Standing): ProposedStep[] {
  const step = (kind: StepKind, subject: string, needs: readonly string[]): ProposedStep => ({
    key: `${kind}:${subject}`,
    kind,
    subject,
    needs,
    seconds: expectedSeconds[kind],
  });
  const warn = step('warn', standing.pool, []);
  const close = step('close', standing.pool, [warn.key]);
  const unpublish = step('unpublish', standing.pool, [close.key]);
  const hosts = standing.hosts.flatMap((host) => {
    let before = unpublish.key;
    return RETIRE_STAGES.map((kind) => {
      const own = step(kind, host, [before]);
      before = own.key;
      return own;
    });
  });
  const gone = hosts.filter((one) => one.kind === 'remove-host').map((one) => one.key);
  const pool = step('remove-pool', standing.pool, gone.length > 0 ? gone : [unpublish.key]);
  const share = step('remove-share', standing.pool, [pool.key]);
  const subnet = step('remove-subnet', standing.pool, [pool.key]);
  const network = standing.networkShared ? [] : [step('remove-network', standing.environment, [subnet.key])];
  const before = [share, subnet, ...network].map((one) => one.key);
  return [
    warn,
    close,
    unpublish,
    ...hosts,
    pool,
    share,
    subnet,
    ...network,
    step('prove', standing.environment, before),
  ];
}
