import type { Step } from '../../contract';

/** Kinds whose words are not their keys. */
const KINDS: Readonly<Record<string, string>> = { builder: 'build machine' };

/** What a step does, in words: `make host`, `grow disk`. */
export const stepWords = ({ action, kind }: Pick<Step, 'action' | 'kind'>): string => {
  const verb = action.replaceAll('-', ' ');
  return ['make', 'remove', 'set'].includes(action) ? `${verb} ${KINDS[kind] ?? kind}` : verb;
};
