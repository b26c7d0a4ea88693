import { HARMS, SIGN_KEYS } from '../core/signs';
import { customerCode, id } from './common';
import { endpoint } from './endpoint';
import { hostSchema } from './environments';
import { sessionSchema } from './sessions';
import { recentSchema } from './trail';
import { listOf, maybe, maybeText, maybeWhole, number, oneOf, shape, text, whole, type Of } from './shape';

/** By what a host shows, or showed, that it is unwell. */
export const hostSignSchema = shape({
  id: text,
  kind: oneOf(SIGN_KEYS),
  says: text,
  harm: oneOf(HARMS),
  people: whole,
  since: whole,
  endedAt: maybeWhole,
  helps: text,
  /** The change that helps; null: none of ours does. */
  mend: maybeText,
});
export type HostSignTold = Of<typeof hostSignSchema>;

export const hostDetailSchema = shape({
  host: hostSchema,
  environment: text,
  site: text,
  siteName: text,
  /** Signs it shows, and those of the last month that are over, newest first. */
  signs: listOf(hostSignSchema),
  sessions: listOf(sessionSchema),
  /** Who was in lately, newest first. */
  before: listOf(shape({ account: text, person: maybeText, since: whole, endedAt: whole })),
  recent: listOf(recentSchema),
});
export type HostDetail = Of<typeof hostDetailSchema>;

/** What a host last said of itself; parts in hundredths. */
export const vitalsSchema = shape({
  heardAt: whole,
  askedAt: whole,
  load: number,
  memory: number,
  disk: number,
  clockOffMs: number,
  agent: text,
  signIns: shape({ tried: whole, refused: whole }),
  signInSeconds: number,
});
export type VitalsTold = Of<typeof vitalsSchema>;

const hostParams = shape({ customer: customerCode, host: id });

const area = 'Serve';

export const hostEndpoints = {
  read: endpoint({
    method: 'GET',
    path: '/customers/{customer}/hosts/{host}',
    area,
    summary: 'One host: who is in, what it shows, and what was last done with it',
    params: hostParams,
    answer: hostDetailSchema,
  }),
  vitals: endpoint({
    method: 'GET',
    path: '/customers/{customer}/hosts/{host}/vitals',
    area,
    summary: 'What the host last said of itself, asked of its provider now; null where it does not run',
    params: hostParams,
    answer: shape({ vitals: maybe(vitalsSchema) }),
  }),
};
