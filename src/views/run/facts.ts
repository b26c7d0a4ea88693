import type { Impact } from '../../core/planning';
import type { StepState } from '../../core/runs';
import type { RunShort } from '../runs/RunLine';

export interface StepFacts {
  readonly id: string;
  readonly kind: string;
  readonly action: string;
  readonly subject: string;
  readonly state: StepState;
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
  readonly kind: string;
  /** The version of the intent that undoing goes back to; null: it cannot be undone. */
  readonly undoTo: number | null;
  readonly graph: readonly StepFacts[];
}
