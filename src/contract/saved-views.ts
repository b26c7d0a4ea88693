import Joi from 'joi';
import { endpoint } from './endpoint';
import { filled, listOf, oneOf, shape, text, type Of } from './shape';

/** Pages of which one may keep views: what is chosen there. */
const page = filled(oneOf(['customers', 'provision']), 'customers');
const name = Joi.string().trim().min(1).max(60).required().messages({ 'string.empty': 'name it' });

export const savedViewSchema = shape({
  name: text,
  /** What is chosen, as the page's address would have it. */
  query: text,
});
export type SavedView = Of<typeof savedViewSchema>;

const area = 'Views';

export const savedViewEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/saved-views',
    area,
    summary: 'Views of a list that you have kept, by name',
    query: shape({ page }),
    answer: shape({ views: listOf(savedViewSchema) }),
  }),
  keep: endpoint({
    method: 'PUT',
    path: '/saved-views',
    area,
    summary: 'Keep a view of a list, for yourself alone; one of the same name is replaced',
    body: shape({ page, name, query: Joi.string().allow('').max(4_000).required() }),
    answer: shape({ views: listOf(savedViewSchema) }),
  }),
  drop: endpoint({
    method: 'DELETE',
    path: '/saved-views',
    area,
    summary: 'Keep a view no longer',
    query: shape({ page, name }),
    status: 204,
  }),
};
