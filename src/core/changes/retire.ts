import Joi from 'joi';
import type { Facts } from '../facts';
import { blocks, defineChange, warns, type Check } from '../planning';
import { ok } from '../result';
import { dataField, forGood, nameOf, type DataChoice } from './common';

/**
 * Takes an environment away: a difference to nothing, in the reverse order of its making, and then the proof. What people
 * kept there is retained as long as the plan promises, unless it is to be destroyed.
 */
export const retire = defineChange<DataChoice>({
  kind: 'retire',
  subject: 'environment',
  verb: 'Retire',
  input: Joi.object<DataChoice>({ data: dataField }),
  right: 'build',
  confirm: 'type the code',
  destroys: true,
  undo: 'none',
  needs: ['image', 'served'],
  retains: ({ data }) => data === 'kept',
  whole: true,
  opens: [{ action: 'warn', seconds: 10, ahead: true }],
  closes: [
    { action: 'sweep', seconds: 10 },
    { action: 'prove', seconds: 10 },
  ],
  title: (_input, facts) => `Retire ${nameOf(facts)}`,
  edit: () => ok(null),
  policy: () => forGood,
  checks: (_edited, _input, facts) => usedCheck(facts),
  people: (_input, facts) => facts.environment?.intent.people ?? 0,
});

/** An image that customers' hosts stand on stays; one of a customer's own goes with the hosts of theirs. */
function usedCheck({ image, customer }: Facts): Check[] {
  const uses = image?.uses ?? [];
  const hosts = uses.reduce((sum, one) => sum + one.hosts, 0);
  if (hosts === 0) return [];
  const says = hosts === 1 ? '1 host stands on it' : `${hosts} hosts stand on it`;
  return uses.every((one) => one.customer === customer.code)
    ? [warns('used', 'Used', `${says}; no other is made of it any more`, 'Give them another image first.')]
    : [blocks('used', 'Used', says, 'Give them another image first.')];
}
