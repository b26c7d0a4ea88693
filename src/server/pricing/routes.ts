import { pricingEndpoints } from '../../contract';
import { created, ok, reads, writes } from '../http';
import { listCards } from './read';
import { addRate, createCard } from './write';

export const pricingRoutes = [
  reads(pricingEndpoints.list, async ({ app }) => ok({ cards: await listCards(app.db) })),
  writes(
    pricingEndpoints.create,
    ({ app, body }, scope) => createCard(app, scope, body),
    (_made, { body }) => created({ code: body.code }, '/api/v1/cards'),
  ),
  writes(
    pricingEndpoints.addRate,
    ({ app, params, body }, scope) => addRate(app, scope, params.card, body),
    (_made, { params }) => created({ card: params.card }, '/api/v1/cards'),
  ),
];
