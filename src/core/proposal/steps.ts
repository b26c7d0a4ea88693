/** Everything a run can do, one thing a kind. */
export const STEP_KINDS = [
  'network',
  'subnet',
  'share',
  'pool',
  'host',
  'agent',
  'join',
  'register',
  'publish',
  'health',
  'power-on',
  'power-off',
  'drain',
  'accept',
  'warn',
  'close',
  'unpublish',
  'unregister',
  'leave',
  'remove-host',
  'remove-pool',
  'remove-share',
  'remove-subnet',
  'remove-network',
  'prove',
] as const;

export type StepKind = (typeof STEP_KINDS)[number];

/** What is done to each host of a new pool, in order. */
export const PROVISION_STAGES = ['host', 'agent', 'join', 'register'] as const satisfies readonly StepKind[];

export interface ProposedStep {
  /** Unique within its run, and the same each time the same change is proposed. */
  readonly key: string;
  readonly kind: StepKind;
  /** The name of what it is done to. */
  readonly subject: string;
  /** Keys of the steps that must be done first. */
  readonly needs: readonly string[];
  /** Expected length. */
  readonly seconds: number;
}

/**
 * Expected seconds of each kind. Common practice, no source: chosen so that an environment of a few hosts on existing
 * ground takes about 20 minutes and a host about 12.
 */
export const expectedSeconds: Readonly<Record<StepKind, number>> = {
  network: 60,
  subnet: 30,
  share: 120,
  pool: 20,
  host: 420,
  agent: 150,
  join: 90,
  register: 60,
  publish: 60,
  health: 90,
  'power-on': 120,
  'power-off': 60,
  drain: 5,
  accept: 5,
  warn: 10,
  close: 30,
  unpublish: 30,
  unregister: 20,
  leave: 30,
  'remove-host': 120,
  'remove-pool': 20,
  'remove-share': 90,
  'remove-subnet': 30,
  'remove-network': 60,
  prove: 10,
};
