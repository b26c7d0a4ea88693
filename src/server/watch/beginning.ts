import type { Scope } from '../access';
import type { App } from '../app';
import { groundPrices } from '../ground';
import { listNetworks } from '../networks';
import { listPlans } from '../plans';
import { listCards } from '../pricing';
import { addressSpace, listSites } from '../sites';
import { listTemplates } from '../templates';

/** What an MSP needs before it can host anyone, in the order in which one thing needs another, and whether it is there. */
export interface Beginning {
  readonly sites: boolean;
  readonly prices: boolean;
  readonly ranges: boolean;
  readonly services: boolean;
  readonly cards: boolean;
  readonly plans: boolean;
  readonly templates: boolean;
}

export async function beginning(app: App, scope: Scope): Promise<Beginning> {
  const [sites, prices, space, networks, cards, plans, templates] = await Promise.all([
    listSites(app.db, scope),
    groundPrices(app),
    addressSpace(app.db, scope),
    listNetworks(app, scope),
    listCards(app.db),
    listPlans(app.db, scope, app.clock.now()),
    listTemplates(app.db, scope),
  ]);
  return {
    sites: sites.length > 0,
    prices: prices.some((one) => one.from !== null),
    ranges: space.ranges.length > 0,
    services: networks.sites.some((one) => one.services !== null),
    cards: cards.length > 0,
    plans: plans.length > 0,
    templates: templates.some((one) => one.document !== null),
  };
}
