import { certificateReminder } from '../../certificates';
import { bad, doubtful, good, makesHosts, type PlanCheck } from './shape';

/** Nobody is let in by a certificate that has ended. */
export const certificate: PlanCheck = {
  key: 'certificate',
  title: 'Certificate',
  fix: { of: 'customer', page: 'gateway', says: 'Gateway' },
  finds: (plan) => {
    const { gateway } = plan.facts.customer;
    if (!gateway || !makesHosts(plan)) return undefined;
    const says = certificateReminder(gateway.name, gateway.until, plan.facts.now);
    if (says === undefined) return good(`holds for ${gateway.name}`);
    const action = 'Give the gateway a new certificate.';
    return gateway.until <= plan.facts.now ? bad(says, action) : doubtful(says, action);
  },
};
