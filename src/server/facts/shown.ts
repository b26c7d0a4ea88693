import { provision } from '../../core/changes';
import type { Facts } from '../../core/facts';
import { factsFor } from '../../core/planning';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { readFacts } from './read';
import { askOutside } from './outside';
import type { Subject } from './reader';

/** What a new environment is proposed from in the browser. @throws Problem 404 for a site or template that is not there */
export const newEnvironmentFacts = async (app: App, scope: CustomerScope, subject: Subject): Promise<Facts> =>
  shownFacts(
    await readFacts(
      app,
      app.db,
      scope,
      subject,
      factsFor(provision),
      await askOutside(app, scope, subject.site),
    ),
  );

/** The facts as people may see them: what is nobody's may be another customer's, and its name says whose; so may a code. */
function shownFacts({
  site: { namesOfNobody: _names, ...site },
  imagesTaken: _codes,
  ...facts
}: Facts): Facts {
  return { ...facts, site };
}
