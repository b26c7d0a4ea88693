import Joi from 'joi';
import { LOOK_ALONG_STATES } from '../core/look-along';
import { customerCode, id, reason } from './common';
import { endpoint } from './endpoint';
import { maybe, maybeWhole, oneOf, shape, text, whole, type Of } from './shape';

export { LOOK_ALONG_STATES };

export const lookAlongSchema = shape({
  id: text,
  state: oneOf(LOOK_ALONG_STATES),
  /** In a sentence. */
  says: text,
  askedAt: whole,
  since: maybeWhole,
  /** Where one sees it, for whoever asked and as long as it lasts; null: nowhere. */
  address: maybe(text),
});
export type LookAlongTold = Of<typeof lookAlongSchema>;

const session = {
  customer: customerCode,
  provider: Joi.string().max(16).required(),
  session: Joi.string().max(64).required(),
};
const area = 'Serve';
/** Who may look along. */
/** The right to look along with a session. */
export const MAY_LOOK = 'run';
const right = MAY_LOOK;
const params = shape({ ...session, look: id });
const path = '/customers/{customer}/sessions/{provider}/{session}/look-along';

export const lookAlongEndpoints = {
  ask: endpoint({
    method: 'POST',
    path,
    area,
    summary: 'Asks somebody, in their session, whether one may look along; they see who asks',
    right,
    params: shape(session),
    body: shape({ reason }),
    status: 201,
    answer: lookAlongSchema,
  }),
  read: endpoint({
    method: 'GET',
    path: `${path}/{look}`,
    area,
    summary: 'What they said, and where one looks along as long as they let one',
    right,
    params,
    answer: lookAlongSchema,
  }),
  end: endpoint({
    method: 'DELETE',
    path: `${path}/{look}`,
    area,
    summary: 'Ends looking along',
    right,
    params,
    status: 204,
  }),
};
