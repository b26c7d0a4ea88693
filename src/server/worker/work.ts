import type { StepKind } from '../../core/proposal';
import type { Work } from './progress';
import { changeWork } from './work-change';
import { makeWork } from './work-make';
import { removeWork } from './work-remove';

/** What is done for each kind of step. */
export const WORK: Readonly<Record<StepKind, Work>> = { ...makeWork, ...changeWork, ...removeWork };
