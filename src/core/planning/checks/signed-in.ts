import { doubtful, good, type HostPlan, type PlanCheck } from './shape';

/** Whose sessions it ends, and how long they get. */
export const signedIn: PlanCheck<HostPlan> = {
  key: 'signed-in',
  title: 'Signed in',
  finds: ({ tasks, policy: { drain } }) => {
    const ended = tasks.filter(
      ({ task }) => task.do !== 'change' || task.differences.some((one) => one.disturbs),
    );
    const people = ended.reduce((all, { task }) => all + task.people, 0);
    if (people === 0) return undefined;
    const who = people === 1 ? '1 person is signed in' : `${people} people are signed in`;
    if (drain && drain.minutes > 0) return good(`${who}; they get ${drain.minutes} minutes`);
    return doubtful(
      `${who}; ${people === 1 ? 'the session ends' : 'their sessions end'} at once`,
      'Drain first, or do it when nobody is there.',
    );
  },
};
