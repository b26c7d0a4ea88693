import type { Step } from '../../contract';

/** What a step does, in words: `make host`, `grow disk`. */
export const stepWords = ({ action, kind }: Pick<Step, 'action' | 'kind'>): string => {
  const verb = action.replaceAll('-', ' ');
  return ['make', 'remove', 'set'].includes(action) ? `${verb} ${kind}` : verb;
};
