import Joi from 'joi';
import {
  ASSIGNINGS,
  CROSSINGS,
  GRANTED_TO,
  IMAGE_TRACKS,
  ITEM_ICONS,
  ITEM_KINDS,
  OWN_ACTS,
  SCREENS,
  type Attributes,
  type Grant,
  type HostIntent,
  type Intent,
  type Origin,
  type PoolIntent,
  type PublishedItem,
} from '../../core/intent';
import { ARRIVAL_RULES } from '../../core/placement';
import { WORK_PROFILES, type ProfileKey } from '../../core/sizing';
import { storedForm, type Upgrade } from '../../core/stored';

/* How an intent is kept. Only its structure is stated here: what may be wanted is checked where it is asked for. */

const text = Joi.string().allow('');
const whole = Joi.number().integer();
const one = <Value extends string>(values: readonly Value[]): Joi.StringSchema<Value> =>
  Joi.string<Value>().valid(...values);
const texts = Joi.object<Record<string, string>>().pattern(Joi.string(), text);

const crosses = Joi.array<PublishedItem['crosses']>().items(one(CROSSINGS));

const item = {
  name: text.required(),
  kind: one(ITEM_KINDS).required(),
  starts: text,
  arguments: text,
  folder: text,
  hidden: Joi.boolean(),
  crosses,
  screen: one(SCREENS),
  icon: one(ITEM_ICONS),
};

const host = Joi.object<HostIntent, true>({
  slot: whole.required(),
  size: text,
  diskGiB: whole,
  ready: Joi.boolean().valid(true),
  person: text,
  personId: text,
  leftAt: whole,
  disk: whole,
  from: text,
});

const given = {
  role: text.required(),
  image: text.required(),
  line: text,
  track: one(IMAGE_TRACKS),
  size: text.required(),
  profile: one(Object.keys(WORK_PROFILES) as ProfileKey[]).required(),
  mostSeats: whole.required(),
  arrival: one(ARRIVAL_RULES).required(),
  diskGiB: whole.required(),
  ownDiskGiB: whole.required(),
  assign: one(ASSIGNINGS).required(),
  ceiling: whole.required(),
  people: whole.required(),
  shareGiB: Joi.number().required(),
  items: Joi.array<readonly PublishedItem[]>()
    .items(Joi.object({ ...item, for: text }))
    .required(),
  crosses: crosses.required(),
  may: Joi.array().items(one(OWN_ACTS)).required(),
};

const pool = Joi.object<PoolIntent>({
  ...given,
  seats: whole.required(),
  grants: Joi.array<readonly Grant[]>()
    .items(
      Joi.object<Grant, true>({
        item: text.required(),
        to: one(GRANTED_TO).required(),
        id: text.required(),
        until: whole.allow(null).required(),
      }),
    )
    .required(),
  hosts: Joi.array<readonly HostIntent[]>().items(host).required(),
  lastDisk: whole,
});

const origin = Joi.object<Origin>({
  code: text.required(),
  revision: whole.required(),
  inputs: Joi.array()
    .items(
      Joi.object({
        key: text.required(),
        value: Joi.alternatives(text, Joi.number(), Joi.boolean()).required(),
      }),
    )
    .required(),
  gave: Joi.object({
    naming: text.required(),
    tags: texts.required(),
    pools: Joi.array().items(Joi.object(given)).required(),
  }).required(),
});

const attribute = Joi.alternatives(text, Joi.number(), Joi.boolean(), null, Joi.array().items(text));

const intentSchema = Joi.object<Intent>({
  name: text.required(),
  site: text.required(),
  template: origin.allow(null).required(),
  naming: text.required(),
  tags: texts.required(),
  people: whole.required(),
  pools: Joi.array<readonly PoolIntent[]>().items(pool).required(),
  more: Joi.object<Record<string, readonly Attributes[]>>()
    .pattern(Joi.string(), Joi.array().items(Joi.object().pattern(Joi.string(), attribute)))
    .required(),
});

/** In format 1 a host said whether it is on and takes people, and counted what it was asked for: overrides and runs do. */
const SWITCHES = ['power', 'accepting', 'anew', 'restarts', 'picture', 'returns'];

const withoutSwitches: Upgrade = (document) => ({
  ...document,
  pools: (document.pools as { hosts: object[] }[]).map((pool) => ({
    ...pool,
    hosts: pool.hosts.map((host) =>
      Object.fromEntries(Object.entries(host).filter(([key]) => !SWITCHES.includes(key))),
    ),
  })),
});

/** Each change of the format is one more upgrade at the end, and one more old document in its test. */
export const intentForm = storedForm<Intent>({
  name: 'intent',
  schema: intentSchema,
  upgrades: [withoutSwitches],
});
