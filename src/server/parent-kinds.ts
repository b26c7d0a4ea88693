import { retireEach } from './life';
import type { ParentKind, ParentWork } from './parent-runs';
import { moveEach } from './plans';
import { scopeOfOperator } from './sign-in';
import { beginEach } from './template-files';

/** Every kind of run over several customers or environments. A new one is a file of the same shape and its line here. */
const PARENT_KINDS: readonly ParentKind[] = [retireEach, moveEach, beginEach];

/** What parent runs are carried on with. */
export const PARENT_WORK: ParentWork = {
  kinds: PARENT_KINDS,
  scopeOf: ({ db, clock }, actorId) => scopeOfOperator(db, actorId, clock.wall()),
};
