import Joi from 'joi';
import { endpoint } from './endpoint';
import { filled, flag, number, optional, shape, whole, type Of } from './shape';

export const clockSchema = shape({
  now: whole,
  /** Whether it is a simulated time, which can be set. */
  demo: flag,
  /** Seconds shown for each second of the wall; 0: paused. */
  speed: number,
});
export type ClockView = Of<typeof clockSchema>;

const DAY_MS = 86_400_000;
export const SPEEDS = [0, 1, 10, 60, 600] as const;

const keepable = optional(Joi.number().valid(...SPEEDS));

export const clockEndpoints = {
  read: endpoint({
    method: 'GET',
    path: '/clock',
    area: 'Clock',
    summary: 'The time that everything goes by',
    answer: clockSchema,
  }),
  set: endpoint({
    method: 'PUT',
    path: '/clock',
    area: 'Clock',
    summary: 'In the demo: set the speed, and step the clock forward. Elsewhere there is no such thing',
    right: 'run',
    body: shape({
      /** Left out: it stays as it is. */
      speed: keepable,
      stepMs: filled(
        Joi.number()
          .integer()
          .min(0)
          .max(31 * DAY_MS),
        0,
      ),
    }),
    answer: clockSchema,
  }),
};
