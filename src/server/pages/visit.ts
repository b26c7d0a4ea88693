import { enter, MSP, type CustomerScope, type Scope } from '../access';
import type { App as Laager } from '../app';
import { can, type BarState, type Customer, type Page, type Right } from '../../contract';
import { getCustomer } from '../customers';
import { paged } from '../http';
import { Problem } from '../problem';
import { countUnderWay } from '../runs';

/** Who looks, and what their bar shows. @throws Problem 401 without a sign-in, which the middleware has seen to */
export async function visit(locals: App.Locals): Promise<{
  app: Laager;
  scope: Scope;
  bar: BarState;
  may: (right: Right) => boolean;
  mayChange: boolean;
}> {
  const { laager: app, scope } = locals;
  if (!scope || scope.actor.role === 'person') throw new Problem(401, 'sign-in', 'Sign in first.');
  const { rights } = scope.actor;
  return {
    app,
    scope,
    may: (right) => can(rights, right),
    mayChange: can(rights, 'build'),
    bar: {
      who: scope.actor.name,
      role: scope.actor.role,
      rights,
      underWay: await countUnderWay(app.db, scope),
      clock: app.clock.view(),
    },
  };
}

/**
 * A visit inside a customer; undefined when there is none such in reach, and the page answers 404.
 * @param own whether the page is one for what is the MSP's own, too
 */
export async function visitCustomer(
  locals: App.Locals,
  code: string | undefined,
  own = false,
): Promise<(Awaited<ReturnType<typeof visit>> & { inside: CustomerScope; customer: Customer }) | undefined> {
  const visitor = await visit(locals);
  const inside = await unlessMissing(enter(visitor.app.db, visitor.scope, code ?? '', own));
  return (
    inside && {
      ...visitor,
      inside,
      customer:
        inside.customer.id === MSP.id
          ? OUR_OWN
          : await getCustomer(visitor.app.db, inside, visitor.app.clock.now()),
    }
  );
}

/** The MSP's own, as pages inside a customer show whose they are. */
export const OUR_OWN: Customer = {
  code: MSP.code,
  name: 'Our own',
  state: 'active',
  plan: '',
  site: '',
  siteName: '',
  zone: 'UTC',
  currency: 'EUR',
  realm: '',
  people: 0,
  hosts: 0,
  blocks: [],
  mark: { code: MSP.code, hue: 158, shape: 0, pattern: 1 },
};

/** What was asked for; undefined when it is not there or out of reach. */
export async function unlessMissing<Found>(asked: Promise<Found>): Promise<Found | undefined> {
  try {
    return await asked;
  } catch (error) {
    if (error instanceof Problem && error.status === 404) return undefined;
    throw error;
  }
}

/** So many entries of a list come with its page. */
const FIRST = 100;

/** The first page of a list, as the API would answer it. */
export const firstPage = <Entry>(
  list: (limit: number) => Promise<readonly Entry[]>,
  cursor: (entry: Entry) => string,
): Promise<Page<Entry>> => paged(FIRST, list, cursor);
