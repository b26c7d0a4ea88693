import { MSP } from '../../src/server/access';
import type Joi from 'joi';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import * as contract from '../../src/contract';
import { HARMS, SIGN_KEYS } from '../../src/core/signs';
import { SESSION_ACTS } from '../../src/core/session-acts';
import { HOLDINGS } from '../../src/core/intent';
import { CONDITIONS, SITE_KINDS } from '../../src/core/facts';
import { OVERRIDDEN, OVERRIDE_CAUSES } from '../../src/core/overrides';
import { LIMITS } from '../../src/core/plans';
import { RATE_UNITS } from '../../src/core/rating';
import { PURPOSES } from '../../src/core/resources';
import { PART_STATES } from '../../src/core/parent-runs';
import { RUN_STATES, STEP_STATES } from '../../src/core/runs';
import { POWERS } from '../../src/core/status';
import { routesOf } from '../../src/server/rooms';
import { makeCatalogue } from '../../src/server/catalogue';
import { openEmptyWorld, type EmptyWorld } from './setup/world';

/** Each list of the database, and the one list that it must agree with. */
const LISTS: Readonly<Record<string, readonly string[]>> = {
  'allowance.limit_name': LIMITS,
  'customer.kind': ['customer', 'msp'],
  'customer.state': contract.CUSTOMER_STATES,
  'directory_link.state': contract.READING_STATES,
  'desk_identity.known_by': contract.KNOWN_BY,
  'host_override.attribute': OVERRIDDEN,
  'host_override.cause': OVERRIDE_CAUSES,
  'look_along.state': contract.LOOK_ALONG_STATES,
  'desk_rule.screen': contract.SCREENS,
  'directory_link.via': contract.DIRECTORY_WAYS,
  'directory_page.part': ['groups', 'people'],
  'environment.holds': HOLDINGS,
  'environment.wanted': contract.ENVIRONMENT_WANTED,
  'look_mark.state': contract.LOOK_STATES,
  'meter_interval.state': POWERS,
  'node.state': contract.NODE_STATES,
  'operator.reach': contract.REACHES,
  'operator.role': contract.ROLES,
  'outside_group.reach': contract.REACHES,
  'outside_group.role': contract.ROLES,
  'parent_part.state': PART_STATES,
  'parent_run.state': RUN_STATES,
  'present_resource.present_condition': [...CONDITIONS, 'gone'],
  'pushed_entry.kind': ['Group', 'User'],
  'rate.unit': RATE_UNITS,
  'run.state': RUN_STATES,
  'run.subject_kind': contract.RUN_SUBJECTS,
  'person.follows': ['leave', 'rename', 'return'],
  'session_act.act': SESSION_ACTS.map(({ key }) => key),
  'session_act.state': contract.ACT_STATES,
  'session.state': contract.SESSION_STATES,
  'sign.harm': HARMS,
  'sign.kind': SIGN_KEYS,
  'site.kind': SITE_KINDS,
  'step.purpose': PURPOSES,
  'step.state': STEP_STATES,
  'trail.actor_role': contract.ROLES,
};

describe('the contract', () => {
  let world: EmptyWorld;
  beforeAll(async () => {
    world = await openEmptyWorld('contract');
  });
  afterAll(() => world.close());

  it('has the same lists as the database, each in the same words', async () => {
    const columns = await world.app.db.rows<{ place: string; type: string }>(
      `SELECT CONCAT(TABLE_NAME, '.', COLUMN_NAME) AS place, COLUMN_TYPE AS type
       FROM information_schema.COLUMNS WHERE TABLE_SCHEMA = ? AND DATA_TYPE = 'enum'`,
      [world.app.databaseName],
    );
    const found = Object.fromEntries(
      columns.map(({ place, type }) => [place, [...type.matchAll(/'([^']*)'/g)].map(([, word]) => word)]),
    );
    const sorted = (lists: object): object =>
      Object.fromEntries(
        Object.entries(lists).map(([place, words]) => [place, [...(words as string[])].sort()]),
      );
    expect(sorted(found)).toEqual(sorted(LISTS));
  });

  it('has CHECKs in the database that name nothing but those words', async () => {
    const checks = await world.app.db.rows<{ name: string; clause: string }>(
      `SELECT CONCAT(TABLE_NAME, '.', CONSTRAINT_NAME) AS name, CHECK_CLAUSE AS clause
       FROM information_schema.CHECK_CONSTRAINTS WHERE CONSTRAINT_SCHEMA = ?`,
      [world.app.databaseName],
    );
    expect(checks.length).toBeGreaterThan(0);
    // An account that was freed for a moment begins with a tilde.
    const words = new Set([...Object.values(LISTS).flat(), MSP.id, '~%']);
    for (const { name, clause } of checks)
      for (const [, word = ''] of clause.matchAll(/'([^']*)'/g))
        expect([name, words.has(word)]).toEqual([name, true]);
  });

  it('leaves no object open: each names its keys, or says what each of its values is', () => {
    const open: string[] = [];
    for (const route of routesOf(makeCatalogue()))
      for (const part of ['params', 'query', 'body', 'answer'] as const) {
        const schema = route[part];
        if (schema) open.push(...openPartsOf(schema.describe(), `${route.method} ${route.path} ${part}`));
      }
    // What the trail tells has the keys of each action.
    expect(open.filter((place) => !/trail\S* answer(\.entries\[\])?\.(before|after)/.test(place))).toEqual(
      [],
    );
  });
});

/** Places of objects and values of which nothing is said. */
function openPartsOf(described: Joi.Description, place: string): string[] {
  const { type, keys, patterns, items, matches, flags } = described as Joi.Description & {
    patterns?: { rule: Joi.Description }[];
    items?: Joi.Description[];
    matches?: { schema: Joi.Description }[];
    flags?: { unknown?: boolean };
  };
  if (flags?.unknown === true || type === 'any') return [place];
  if (type === 'object') {
    if (patterns) return patterns.flatMap(({ rule }) => openPartsOf(rule, `${place}.*`));
    if (!keys) return [place];
    return Object.entries(keys as Record<string, Joi.Description>).flatMap(([name, key]) =>
      openPartsOf(key, `${place}.${name}`),
    );
  }
  if (type === 'array') return (items ?? []).flatMap((item) => openPartsOf(item, `${place}[]`));
  if (type === 'alternatives') return (matches ?? []).flatMap(({ schema }) => openPartsOf(schema, place));
  return [];
}
