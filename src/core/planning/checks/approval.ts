import { wordNeeded } from '../../approval';
import { plain } from '../../money';
import { APPROVAL } from '../check';
import { doubtful, type HostPlan, type PlanCheck } from './shape';

/** Whether a lead who did not ask for it has to say yes. */
export const approval: PlanCheck<HostPlan> = {
  key: APPROVAL,
  title: 'Approval',
  needs: ['approval'],
  finds: ({ facts: { approval: rule }, change, monthly }) => {
    const needed = rule && wordNeeded(rule, [change.kind, change.partOf ?? change.kind], monthly, rule.begun);
    if (!needed) return undefined;
    return doubtful(
      needed.why === 'kind'
        ? `${change.verb.toLowerCase()} needs approval by another lead`
        : `more than ${plain(needed.above)} ${needed.above.currency} a month needs approval by another lead${(rule.begun ?? 0) > 0 ? ', together with what you began here in the last 30 days' : ''}`,
      'Ask for approval: it is held until a lead approves it.',
    );
  },
};
