import type { Watch } from '../../contract';
import { get } from '../../client/api';
import type { Question } from '../../client/live';

/** Every customer in reach at a glance: several pages show it. */
export const WATCH: Question<Watch> = { key: 'watch', read: () => get('/watch', {}) };
