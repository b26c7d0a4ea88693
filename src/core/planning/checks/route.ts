import type { PlannedTask } from '../tasks';
import { askedAt, bad, doubtful, good, makesHosts, seen, type Plan, type PlanCheck } from './shape';

/** What it makes or changes of the way from the hosts to their directory, where hosts are made and there is such a way. */
export const changedWay = (plan: Plan): readonly PlannedTask[] =>
  plan.facts.site.services && makesHosts(plan)
    ? plan.tasks.filter(({ kind, task }) => kind.isWay === true && task.do !== 'remove')
    : [];

/**
 * Whether hosts would reach the directory and the name servers: from a network that stands, it is tried. What the change
 * itself makes or mends of the way cannot be tried before, and is not held against it.
 */
export const route: PlanCheck = {
  key: 'route',
  title: 'Network',
  fix: { of: 'everyone', page: 'ground/networks', says: 'Networks' },
  finds: (plan) => {
    const { site } = plan.facts;
    const at = askedAt(plan.facts);
    if (!site.services || !makesHosts(plan)) return undefined;
    const changing = changedWay(plan);
    if (changing.length > 0) {
      const then = thenSays(changing);
      if (!site.nameServers) return doubtful('not tried: this makes or changes it first', `Go on: ${then}.`);
      return site.nameServers.worked
        ? seen(good(`${site.nameServers.says}; ${then}`), 'asked from the shared services', at)
        : undefined;
    }
    if (!site.route) return undefined;
    return seen(
      site.route.worked
        ? good(site.route.says)
        : bad(site.route.says, 'Mend how it is joined, under Ground, Networks.'),
      'tried from the network itself',
      at,
    );
  },
};

const thenSays = (changing: readonly PlannedTask[]): string =>
  changing.some(({ kind, task }) => kind.joins !== undefined && task.do === 'make')
    ? 'the whole way is tried before a host is built'
    : 'the whole way can be tried under Ground, Networks, once it is changed';
