import type { MarkLook } from '../../ui/Mark';

/** Whose plan it is. */
export interface PlanOwner {
  readonly code: string;
  readonly name: string;
  readonly zone: string;
  readonly currency: string;
  readonly mark: MarkLook;
}
