import type { Impact } from '../../core/proposal';
import type { RunShort } from '../runs/RunLine';

export interface StepFacts {
  readonly id: string;
  readonly kind: string;
  readonly subject: string;
  readonly state: 'waiting' | 'working' | 'done' | 'failed';
  readonly needs: readonly string[];
  readonly expectedSeconds: number;
  readonly attempt: number;
  readonly says: string;
  readonly beganAt: number | null;
  readonly endedAt: number | null;
}

export interface RunFacts extends RunShort {
  readonly impact: Impact;
  readonly atATime: number;
  readonly failureLimit: number;
  readonly version: number;
  readonly graph: readonly StepFacts[];
}
