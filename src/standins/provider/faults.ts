import type { Store } from '../kit/database';
import type { ActiveFaults } from '../kit/server';
import { ail } from './ailment';
import { endSessionsOn } from './session-record';
import type { World } from './world';

/** Faults that can be switched on: what `amount` counts differs by kind. */
export type FaultKind =
  | 'slow'
  | 'refuse'
  | 'throttle'
  | 'fail-host'
  | 'lose-answer'
  | 'stall'
  | 'lose-node'
  | 'drop-node'
  | 'quota'
  | 'drop-size'
  | 'price'
  | 'stuck-gateway'
  | 'no-making'
  | 'clock-off';

export interface Fault {
  readonly id: number;
  readonly kind: FaultKind;
  readonly target: string;
  readonly amount: number;
}

/** stuck-gateway: it goes on answering with the certificate that it has; drop-node and drop-size: the target is told no more; quota: amount vCPU, or of the target so much; price: the target (a size, `disk` or `share`) is dearer by amount per cent; slow and clock-off: amount is ms; no-making, refuse, throttle and stall: on while set; lose-answer: so many writes do their work and say nothing. */
export class Faults {
  private list: Fault[] = [];

  constructor(
    private readonly store: Store,
    private readonly world: World,
  ) {}

  async load(): Promise<void> {
    this.list = await this.store.rows<Fault>('SELECT id, kind, target, amount FROM fault ORDER BY id');
  }

  all(): readonly Fault[] {
    return this.list;
  }

  /** Replaces all faults. A node that is lost takes its hosts with it; when it is back, so are they. */
  async replace(wanted: readonly Omit<Fault, 'id'>[]): Promise<void> {
    const before = lostNodes(this.list);
    await this.store.write('DELETE FROM fault');
    for (const fault of wanted)
      await this.store.write('INSERT INTO fault (kind, target, amount) VALUES (?, ?, ?)', [
        fault.kind,
        fault.target,
        fault.amount,
      ]);
    await this.load();
    const now = lostNodes(this.list);
    for (const node of now) if (!before.has(node)) await this.setNode(node, 'on', 'unwell');
    for (const node of before) if (!now.has(node)) await this.setNode(node, 'unwell', 'on');
  }

  activeFaults(): ActiveFaults {
    const has = (kind: FaultKind): Fault | undefined => this.list.find((fault) => fault.kind === kind);
    return {
      slowMs: has('slow')?.amount ?? 0,
      stalls: has('stall') !== undefined,
      aheadMs: has('clock-off')?.amount ?? 0,
      before: (path, method) => {
        if (has('no-making') && method !== 'GET' && path.startsWith('/v1/resources'))
          return { status: 403, body: { code: 'right', message: 'this account may not make or remove' } };
        if (has('refuse')) return { status: 503, body: { code: 'unavailable', message: 'try again later' } };
        if (has('throttle'))
          return {
            status: 429,
            headers: { 'retry-after': '1' },
            body: { code: 'too-many', message: 'slow down' },
          };
        return undefined;
      },
      loses: (method) => {
        const fault = has('lose-answer');
        if (!fault || fault.amount < 1 || method === 'GET') return false;
        this.list = this.list.map((one) => (one.id === fault.id ? { ...one, amount: one.amount - 1 } : one));
        void this.store.write('UPDATE fault SET amount = amount - 1 WHERE id = ?', [fault.id]);
        return true;
      },
    };
  }

  private async setNode(node: string, from: string, to: string): Promise<void> {
    const hosts = await this.world.list("kind = 'host' AND state = ?", [from]);
    for (const host of hosts.filter((one) => one.attrs.node === node)) {
      const at = this.world.clock.now();
      await this.world.change(host.id, at, to, {});
      await ail(this.store, host.id, to === 'unwell' ? { silent_at: at } : {});
      if (to === 'unwell') await endSessionsOn(this.store, host.id);
    }
  }
}

const lostNodes = (faults: readonly Fault[]): Set<string> =>
  new Set(faults.filter((fault) => fault.kind === 'lose-node').map((fault) => fault.target));
