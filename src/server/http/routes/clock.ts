import Joi from 'joi';
import { notFound } from '../../problem';
import { write } from '../../write';
import { ok, operatorRoute, type Route } from '../route';
import { flag, shape, whole } from '../shapes';

const clockShape = shape({ now: whole, demo: flag, speed: Joi.number().required() });

const DAY_MS = 86_400_000;
export const SPEEDS = [0, 1, 10, 60, 600] as const;

export const clockRoutes: readonly Route[] = [
  operatorRoute({
    method: 'GET',
    path: '/clock',
    area: 'Clock',
    summary: 'The time that everything goes by',
    answer: clockShape,
    handle: async ({ app }) => {
      const setting = app.clock.setting();
      return ok({ now: app.clock.now(), demo: setting !== undefined, speed: setting?.speed ?? 1 });
    },
  }),
  operatorRoute({
    method: 'PUT',
    path: '/clock',
    area: 'Clock',
    summary: 'In the demo: set the speed, and step the clock forward. Elsewhere there is no such thing',
    body: Joi.object<{ speed: number; stepMs: number }>({
      speed: Joi.number()
        .valid(...SPEEDS)
        .required(),
      stepMs: Joi.number()
        .integer()
        .min(0)
        .max(31 * DAY_MS)
        .default(0),
    }),
    roles: ['engineer', 'lead'],
    answer: clockShape,
    work: async ({ app, body }, scope) => {
      const before = app.clock.setting();
      if (!before) throw notFound('clock to set');
      const now = app.clock.now() + body.stepMs;
      await app.clock.set(now, body.speed);
      return write(app, scope, [], async (tx) => {
        await tx.record({
          action: 'set demo clock',
          subject: 'clock',
          before: { speed: before.speed },
          after: { speed: body.speed, steppedMs: body.stepMs },
          topic: 'clock',
          id: 'clock',
        });
        return { now, demo: true, speed: body.speed };
      });
    },
    reply: (made) => ok(made),
  }),
];
