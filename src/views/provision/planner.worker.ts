import type { Question } from './facts';
import { planFor } from './plan';

/** What was asked last; what was asked before it and is not begun yet nobody waits for any more. */
let next: Question | undefined;

self.addEventListener('message', ({ data }: MessageEvent<Question>) => {
  if (next === undefined) setTimeout(answer);
  next = data;
});

function answer(): void {
  if (next === undefined) return;
  const question = next;
  next = undefined;
  self.postMessage(planFor(question));
}
