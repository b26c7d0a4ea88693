import type { StepFacts } from './facts';

/** What a step does, in words: `make host`, `grow disk`. */
export const stepWords = ({ action, kind }: Pick<StepFacts, 'action' | 'kind'>): string => {
  const verb = action.replaceAll('-', ' ');
  return ['make', 'remove', 'set'].includes(action) ? `${verb} ${kind}` : verb;
};
