import Joi from 'joi';
import { defineChange } from '../planning';
import { ok, refuse } from '../result';
import { nameOf } from './common';

interface DropRetained {
  /** Ids of what is retained. */
  readonly retained: readonly string[];
}

/** Removes what was retained for its data, before its day or on it. */
export const dropRetained = defineChange<DropRetained>({
  kind: 'drop-retained',
  subject: 'environment',
  of: 'customers',
  verb: 'Delete kept data',
  input: Joi.object<DropRetained>({
    retained: Joi.array().items(Joi.string().length(26)).min(1).max(2_000).unique().required(),
  }),
  right: 'build',
  confirm: 'type the code',
  destroys: true,
  partOf: 'retire',
  ofRetired: true,
  undo: 'none',
  needs: ['retained'],
  drops: ({ retained }) => retained,
  title: (_input, facts) => `Delete kept data of ${nameOf(facts)}`,
  edit: (intent, { retained }, { environment, retained: there = [] }) =>
    retained.every((id) => there.some((one) => one.id === id))
      ? ok(environment?.wanted === 'retired' ? null : intent)
      : refuse({ retained: 'one of them is not kept here' }),
  policy: () => ({ atATime: 8, failureLimit: 2 }),
  people: () => 0,
});
