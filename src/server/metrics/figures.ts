import { raw, type Sql } from '../db';

/** One kind of figure: what it is called, what it is split by, and how it is read: a row has the labels and `value`. */
export interface Figure {
  readonly name: string;
  readonly help: string;
  readonly labels: readonly string[];
  /** @param wall the time by the wall, in ms */
  readonly read: (wall: number) => Sql;
}

const SUMMARY = `FROM summary t JOIN customer c ON c.id = t.customer_id WHERE c.kind = 'customer' AND c.state <> 'retired'`;

const ofSummary = (name: string, column: string, help: string): Figure => ({
  name,
  help,
  labels: ['customer'],
  read: () => raw(`SELECT c.code AS customer, t.${column} AS value ${SUMMARY} ORDER BY c.code`),
});

/** Everything that is told, in the order in which it is. Names end with their unit where they have one. */
export const FIGURES: readonly Figure[] = [
  {
    name: 'laager_hosts',
    help: 'Hosts by customer and status.',
    labels: ['customer', 'status'],
    read: () =>
      raw(`SELECT c.code AS customer, a.status, SUM(a.hosts) AS value
           FROM summary t JOIN customer c ON c.id = t.customer_id,
             JSON_TABLE(t.arcs, '$[*]' COLUMNS (status VARCHAR(16) PATH '$.status', hosts INT PATH '$.hosts')) a
           WHERE c.kind = 'customer' AND c.state <> 'retired' GROUP BY c.code, a.status ORDER BY c.code, a.status`),
  },
  ofSummary('laager_people', 'people', 'People of a customer.'),
  ofSummary('laager_people_in', 'people_in', 'People of a customer who are signed in.'),
  ofSummary('laager_seats', 'seats', 'Seats on hosts that take people.'),
  ofSummary('laager_seats_free', 'seats_free', 'Seats that are free on hosts that take people.'),
  {
    name: 'laager_signs',
    help: 'Signs that hosts are unwell, by what they do to people.',
    labels: ['customer', 'kind', 'harm'],
    read: () =>
      raw(`SELECT c.code AS customer, g.kind, g.harm, COUNT(*) AS value FROM sign g JOIN customer c ON c.id = g.customer_id
           WHERE g.ended_at IS NULL GROUP BY c.code, g.kind, g.harm ORDER BY c.code, g.kind, g.harm`),
  },
  {
    name: 'laager_people_hit',
    help: 'People who are hit by signs of hosts.',
    labels: ['customer', 'harm'],
    read: () =>
      raw(`SELECT c.code AS customer, g.harm, SUM(g.people) AS value FROM sign g JOIN customer c ON c.id = g.customer_id
           WHERE g.ended_at IS NULL AND g.harm <> 'soon' GROUP BY c.code, g.harm ORDER BY c.code, g.harm`),
  },
  {
    name: 'laager_runs',
    help: 'Runs that are not done, by state.',
    labels: ['state'],
    read: () =>
      raw(`SELECT state, COUNT(*) AS value FROM run WHERE state <> 'done' GROUP BY state ORDER BY state`),
  },
  {
    name: 'laager_provider_up',
    help: 'Whether the last sign-in at a provider worked.',
    labels: ['provider'],
    read: () => raw('SELECT code AS provider, sign_in_works AS value FROM provider ORDER BY code'),
  },
  {
    name: 'laager_node_up',
    help: 'Whether a node is there.',
    labels: ['site', 'node'],
    read: () =>
      raw(
        `SELECT site_code AS site, id AS node, state = 'up' AS value FROM node WHERE state <> 'gone' ORDER BY site_code, id`,
      ),
  },
  {
    name: 'laager_directory_up',
    help: 'Whether a customer’s directory is followed.',
    labels: ['customer'],
    read: () =>
      raw(`SELECT c.code AS customer, d.state <> 'stopped' AS value FROM directory_link d
           JOIN customer c ON c.id = d.customer_id WHERE c.state <> 'retired' ORDER BY c.code`),
  },
  {
    name: 'laager_job_age_seconds',
    help: 'How long ago a job was last done to its end.',
    labels: ['job'],
    read: (wall) =>
      raw(
        `SELECT name AS job, GREATEST(0, ${Math.round(wall)} - done_wall) / 1000 AS value FROM job WHERE done_wall > 0 ORDER BY name`,
      ),
  },
  {
    name: 'laager_notices_waiting',
    help: 'Notices that wait to be taken.',
    labels: [],
    read: () => raw('SELECT COUNT(*) AS value FROM notice'),
  },
];
