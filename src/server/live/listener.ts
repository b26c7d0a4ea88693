import { MSP, type Scope } from '../access';
import type { Database } from '../db';
import type { Log } from '../log';
import type { Topic } from './topic';

export interface LiveEvent {
  readonly id: number;
  readonly customer_id: string;
  readonly topic: Topic;
  readonly subject_id: string;
}

type EventListener = (event: LiveEvent) => void;

const LOOK_MS = 350;
/** Ids are given before their transaction ends, so a lower one may appear after a higher: so many are read again. */
const OVERLAP = 200;

/**
 * Reads what changed, once for this process, and tells each listener what is within their reach. It looks only while
 * someone listens.
 */
export class Listener {
  private readonly listeners = new Map<EventListener, { scope: Scope; customerId: string | undefined }>();
  private seen = new Set<number>();
  private last = 0;
  private timer: NodeJS.Timeout | undefined;
  private beginning: Promise<void> | undefined;

  constructor(
    private readonly db: Database,
    private readonly log: Log,
  ) {}

  /** Listens within a scope, or to one customer inside it. @returns a function that ends it */
  async listen(scope: Scope, customerId: string | undefined, listener: EventListener): Promise<() => void> {
    // Two that come at once begin it once: beginning passes over what was told before it.
    if (this.timer === undefined)
      await (this.beginning ??= this.begin().finally(() => (this.beginning = undefined)));
    this.listeners.set(listener, { scope, customerId });
    return () => {
      this.listeners.delete(listener);
      if (this.listeners.size === 0) this.end();
    };
  }

  private async begin(): Promise<void> {
    const row = await this.db.row<{ last: number | null }>('SELECT MAX(id) AS last FROM live_event');
    this.last = row?.last ?? 0;
    const recent = await this.db.rows<{ id: number }>('SELECT id FROM live_event WHERE id > ?', [
      this.last - OVERLAP,
    ]);
    this.seen = new Set(recent.map((one) => one.id));
    this.timer ??= setTimeout(() => void this.look(), LOOK_MS);
  }

  private end(): void {
    clearTimeout(this.timer);
    this.timer = undefined;
  }

  private async look(): Promise<void> {
    const mine = this.timer;
    try {
      const events = await this.db.rows<LiveEvent>(
        'SELECT id, customer_id, topic, subject_id FROM live_event WHERE id > ? ORDER BY id LIMIT 2000',
        [this.last - OVERLAP],
      );
      for (const event of events) if (!this.seen.has(event.id)) this.pass(event);
      this.last = Math.max(this.last, events.at(-1)?.id ?? 0);
      this.seen = new Set(events.map((event) => event.id));
    } catch (error) {
      this.log.warn({ error: String(error) }, 'live events could not be read');
    }
    // Ended meanwhile, and perhaps begun anew by another.
    if (this.timer === mine) this.timer = setTimeout(() => void this.look(), LOOK_MS);
  }

  private pass(event: LiveEvent): void {
    // What is the MSP's own concerns everyone who works here.
    const everyones = event.customer_id === MSP.id;
    for (const [listener, { scope, customerId }] of this.listeners) {
      if (!everyones && customerId !== undefined && event.customer_id !== customerId) continue;
      if (!everyones && scope.customers && !scope.customers.has(event.customer_id)) continue;
      listener(event);
    }
  }
}
