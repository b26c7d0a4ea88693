import type { Right } from '../../contract';
import type { StoredForm } from '../../core/stored';
import type { CustomerScope } from '../access';
import type { App } from '../app';

/** What came of carrying out a part: it is done, or it ends with the run that it began. */
export interface PartMade {
  readonly says: string;
  readonly run?: string;
}

/** What a part is told of its parent run. */
export interface About {
  readonly reason: string;
}

/** A kind of parent run: how each of its parts is carried out. A new one is a file of this shape and its line in the list. */
export interface ParentKind<Input extends object = object> {
  readonly kind: string;
  /** What whoever asked for it has to have the right to, also when a part is carried out. */
  readonly right: Right;
  /** How the input of a part is stored until its turn comes. */
  readonly form: StoredForm<Input>;
  /**
   * Carries out one part, inside its customer and as whoever asked for it. It may come a second time, when a process died
   * before it could say what came of the first: so it looks first at what was done.
   * @throws Problem where it cannot be done: then the part has failed
   */
  carryOut(app: App, scope: CustomerScope, input: Input, about: About): Promise<PartMade>;
}
