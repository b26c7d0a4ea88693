import Joi from 'joi';
import { id, plainLines } from './common';
import { endpoint } from './endpoint';
import { listOf, shape, text, whole, type Of } from './shape';

/** What the MSP says to people again and again; in braces what is filled for each of them. */
export const messageTextSchema = shape({ id: text, text, by: text, at: whole });
export type MessageText = Of<typeof messageTextSchema>;

const area = 'Serve';
const right = 'run';
const texts = shape({ texts: listOf(messageTextSchema) });

export const messageTextEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/message-texts',
    area,
    summary: 'What is said to people again and again, as the MSP has written it',
    answer: texts,
  }),
  keep: endpoint({
    method: 'POST',
    path: '/message-texts',
    area,
    everyone: true,
    summary: 'Keep a text for everyone at the MSP; one that is kept already stays as it is',
    right,
    body: shape({
      text: Joi.string()
        .trim()
        .min(1)
        .max(300)
        .custom(plainLines)
        .required()
        .messages({ 'string.empty': 'write what is said' }),
    }),
    answer: texts,
  }),
  drop: endpoint({
    method: 'DELETE',
    path: '/message-texts/{text}',
    area,
    everyone: true,
    summary: 'Keep a text no longer',
    params: shape({ text: id }),
    right,
    status: 204,
  }),
};
