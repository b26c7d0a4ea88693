import { bad, type PlanCheck } from './shape';

/** What others are joined with stays until they are not. */
export const joined: PlanCheck = {
  key: 'joined',
  title: 'In use',
  finds: ({ facts, tasks }) => {
    const count = facts.site.joinedBy ?? 0;
    if (count === 0 || !tasks.some(({ kind, task }) => kind.shared === true && task.do === 'remove'))
      return undefined;
    return bad(
      `${count === 1 ? '1 customer is' : `${count} customers are`} joined with it`,
      'Retire or move what they have here first.',
    );
  },
};
