import Joi from 'joi';
import { patchHosts, withPool } from '../intent';
import { defineChange } from '../planning';
import { ok, refuse } from '../result';
import { writeSize } from '../machines';
import { needsWith, seatsOn } from '../sizing';
import { nameOf, poolField, poolIn, seatsCheck } from './common';
import { isHostOf } from '../resources';

interface Resize {
  readonly pool: string;
  readonly size: string;
}

/** Gives all hosts of a pool another size, in waves, drained first; the seats follow. */
export const resize = defineChange<Resize>({
  kind: 'resize',
  subject: 'environment',
  verb: 'Resize',
  input: Joi.object<Resize>({
    pool: poolField,
    size: Joi.string().max(16).required().description("A size's key at the site"),
  }),
  right: 'build',
  confirm: 'press',
  touches: ['size'],
  undo: 'by difference',
  title: ({ pool, size }, facts) => {
    const found = facts.site.sizes.find((one) => one.key === size);
    return `Resize ${pool} of ${nameOf(facts)} to ${found ? writeSize(found) : size}`;
  },
  edit: (intent, { pool: role, size: key }, facts) => {
    const found = poolIn(intent, role);
    if (!found.ok) return found;
    const size = facts.site.sizes.find((one) => one.key === key);
    if (!size) return refuse({ size: `${facts.site.name} does not have this size` });
    const { pool } = found.value;
    const { seats } = seatsOn(size, needsWith(facts.customer.needs ?? [])[pool.profile], pool.mostSeats);
    if (seats === 0) return refuse({ size: `carries nobody whose work is ${pool.profile}` });
    return ok(
      withPool(found.value.intent, role, (one) => ({
        ...patchHosts(one, { size: undefined }),
        size: key,
        seats,
      })),
    );
  },
  policy: (input, facts) => {
    const hosts = facts.known.filter((one) => one.wanted && isHostOf(one, input.pool)).length;
    return {
      atATime: 8,
      failureLimit: 2,
      waves: Math.max(1, Math.ceil(hosts / 2)),
      drain: {
        minutes: 15,
        message: 'This desktop is about to restart. Please save, sign out and sign in again.',
      },
    };
  },
  checks: (edited, input) => seatsCheck(edited, input.pool, 'Add hosts, unless never all come at once.'),
});
