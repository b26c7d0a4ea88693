import Joi from 'joi';
import { defineChange } from '../planning';
import { ok, refuse } from '../result';
import { nameOf } from './common';

interface Undo {
  /** The version of the intent to go back to. */
  readonly version: number;
}

/** Goes back to an earlier version of what was wanted: the difference from now to then. */
export const undo = defineChange<Undo>({
  kind: 'undo',
  subject: 'environment',
  verb: 'Undo',
  input: Joi.object<Undo>({
    version: Joi.number().integer().min(1).required().description('The version of the intent to go back to'),
  }),
  roles: ['engineer', 'lead'],
  confirm: 'press',
  undo: 'by difference',
  title: ({ version }, facts) => `Take ${nameOf(facts)} back to version ${version}`,
  looksBackTo: ({ version }) => version,
  edit: (_intent, _input, facts) =>
    facts.environment?.earlier
      ? ok(facts.environment.earlier)
      : refuse({ version: 'there is no such version' }),
  policy: () => ({
    atATime: 8,
    failureLimit: 2,
    drain: {
      minutes: 15,
      message: 'This desktop is about to change. Please save, sign out and sign in again.',
    },
  }),
});
