import Joi from 'joi';
import { defineChange } from '../planning';
import { ok } from '../result';
import { nameOf } from './common';

/** Takes an environment away: a difference to nothing, in the reverse order of its making, and then the proof. */
export const retire = defineChange<Record<string, never>>({
  kind: 'retire',
  subject: 'environment',
  verb: 'Retire',
  input: Joi.object<Record<string, never>>({}),
  roles: ['engineer', 'lead'],
  confirm: 'type the code',
  undo: 'none',
  whole: true,
  opens: [{ action: 'warn', seconds: 10 }],
  closes: [
    { action: 'sweep', seconds: 10 },
    { action: 'prove', seconds: 10 },
  ],
  title: (_input, facts) => `Retire ${nameOf(facts)}`,
  edit: () => ok(null),
  policy: () => ({ atATime: 8, failureLimit: 3 }),
  people: (_input, facts) => facts.environment?.intent.people ?? 0,
});
