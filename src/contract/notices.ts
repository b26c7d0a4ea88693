import Joi from 'joi';
import { saysSchema } from './common';
import { endpoint } from './endpoint';
import { maybe, maybeWhole, shape, text, whole, type Of } from './shape';

/** Where it is told what needs a look: as CloudEvents 1.0, signed (RFC 9421). */
export const noticeTargetSchema = shape({
  address: text,
  /** When something was last taken there. */
  sentAt: maybeWhole,
  /** What kept the last of them from being taken; empty: nothing. */
  trouble: text,
  /** How many wait to be taken. */
  waiting: whole,
});
export type NoticeTarget = Of<typeof noticeTargetSchema>;

const area = 'Notices';

export const noticeEndpoints = {
  read: endpoint({
    method: 'GET',
    path: '/notices',
    area,
    summary: 'Where it is told outside what needs a look; null: nowhere',
    right: 'decide',
    answer: shape({ target: maybe(noticeTargetSchema) }),
  }),
  keep: endpoint({
    method: 'PUT',
    path: '/notices',
    area,
    everyone: true,
    summary:
      'Say where it is told what needs a look, and what that is signed with; an empty address: nowhere',
    right: 'decide',
    body: shape({
      address: Joi.string()
        .uri({ scheme: ['http', 'https'] })
        .max(300)
        .allow('')
        .required(),
      /** Shared with who reads them; left empty: as it was. */
      secret: Joi.string().min(24).max(200).allow('').required(),
    }),
    answer: shape({ target: maybe(noticeTargetSchema) }),
  }),
  try: endpoint({
    method: 'POST',
    path: '/notices/tries',
    area,
    everyone: true,
    summary: 'Send one event of no consequence there now, and say what comes of it',
    right: 'decide',
    answer: saysSchema,
  }),
};
