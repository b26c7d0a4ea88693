import { describe, expect, it } from 'vitest';
import { CHANGES } from '../../src/core/changes';
import type { Facts } from '../../src/core/facts';
import { lineOf } from '../../src/core/images';
import { compare, impactLine, type Proposal } from '../../src/core/planning';
import { RESOURCE_KINDS } from '../../src/core/resources';
import { plain } from '../../src/core/money';
import { proposed } from './setup/facts';
import { CASES } from './situations';
import { standing, there, attributes, stray, leavingOne } from './situations/standing';

/*
 * What each change does, told in whole, in many situations: read once by a person, kept in expected/proposals.txt, and
 * from then on held against every word and figure. Where something is meant to be otherwise, `vitest -u` writes it anew,
 * and the difference is read again.
 */

/** Of so many new environments all is told; of the others their checks, cost and hosts. */
const WHOLE = 5;

/** A proposal in lines that one can read. */
function told(proposal: Proposal, isWhole: boolean): string[] {
  const { refused, checks, tasks, steps, policy, cost, wanted, critical, room, intent } = proposal;
  const touched = new Set(tasks.map((one) => one.key));
  const line = intent ? lineOf(intent) : undefined;
  const pools = intent?.pools.map(({ role, size, seats, diskGiB, people, hosts }) => [
    role,
    { size, seats, diskGiB, people },
    ...hosts.map((one) => JSON.stringify(one)),
  ]);
  const inShort = [
    `"${proposal.title}", ${proposal.kind}: ${impactLine(proposal.impact, plain)}`,
    ...(refused ? [`refused: ${JSON.stringify(refused)}`] : []),
    `policy ${JSON.stringify(policy)}`,
    ...proposal.overrides.set.map((one) => `sets ${JSON.stringify(one)}`),
    ...proposal.overrides.lift.map((one) => `sets no longer ${JSON.stringify(one)}`),
    ...checks.map(
      (one) =>
        `  ${one.state} ${one.key} | ${one.title}: ${one.says}${one.do === undefined ? '' : ` | ${one.do}`}`,
    ),
    ...cost.map((one) => `  costs ${one.meter} ${one.size ?? ''} × ${one.quantity}: ${plain(one.amount)}`),
  ];
  if (!isWhole)
    return [
      ...inShort,
      ...wanted
        .filter((one) => one.kind === 'host')
        .map(
          ({ name, attributes: { address, node: on, size } }) =>
            `  ${name} ${String(address)} ${String(on)} ${String(size)}`,
        ),
      `  ${steps.length} steps; room ${room}`,
    ];
  return [
    ...inShort,
    ...tasks.map(
      ({ key, name, task }) =>
        `  ${task.do} ${key} "${name}"${task.people > 0 ? `, ${task.people} in` : ''}${task.do === 'change' ? `: ${task.differences.map((one) => `${one.attribute} ${one.how}, ${one.disturbs ? 'disturbs' : 'disturbs nobody'}, ${one.says ?? ''}`).join('; ')}` : ''}`,
    ),
    ...steps.map(
      (step) =>
        `    ${step.key} ${step.seconds} s, tail ${step.tail} s${step.needs.length > 0 ? `, after ${step.needs.join(' ')}` : ''}`,
    ),
    `critical: ${critical.join(' ')}; room ${room}`,
    ...(refused || intent === null
      ? []
      : line
        ? [`image: ${JSON.stringify(line)}`]
        : [
            `intent of ${JSON.stringify(intent.template && { code: intent.template.code, revision: intent.template.revision })}: ${JSON.stringify(pools).replaceAll('\\"', '')}`,
          ]),
    ...wanted
      .filter((one) => touched.has(one.key))
      .map(
        (one) =>
          `  wanted ${one.key} "${one.name}" ${JSON.stringify(one.attributes)} on ${one.needs.join(' ')}`,
      ),
  ];
}

describe('each change, in whole', () => {
  it('does in each situation what was read and found right', async () => {
    const text = CASES.map(([name, kind, raw, from, policy], n) =>
      [
        `## ${kind}: ${name}`,
        ...told(proposed(kind, raw, from, policy), kind !== 'provision' || n < WHOLE),
      ].join('\n'),
    ).join('\n\n');
    await expect(`${text}\n`).toMatchFileSnapshot('./expected/proposals.txt');
  });

  it('has been looked at for every one of the list', () =>
    expect(new Set(CASES.map(([, kind]) => kind))).toEqual(new Set(CHANGES.map((one) => one.kind))));
});

describe('what differs, in whole', () => {
  it('is told as it was read and found right', async () => {
    const situations: readonly (readonly [string, Facts])[] = [
      ['nothing', standing],
      ['a host that is gone', there('host:desks:2')],
      ['a host that is unwell', there('host:desks:1', { condition: 'unwell' })],
      ['a host that is being built', there('host:desks:1', { condition: 'building' })],
      [
        'a host that is being built, and is not as it will be',
        there('host:desks:1', { condition: 'building', attributes: { power: 'off', size: 's9' } }),
      ],
      [
        'a host otherwise in everything',
        attributes('host:desks:1', {
          size: 's9',
          image: 'Old',
          diskGiB: 64,
          power: 'off',
          accepting: false,
          node: 'zz',
          address: '10.0.0.1',
        }),
      ],
      ['a host that tells less', there('host:desks:1', { attributes: {} })],
      ['a larger disk', attributes('host:desks:1', { diskGiB: 512 })],
      [
        'a share, a pool, a publication',
        {
          ...standing,
          present: standing.present.map((one) =>
            one.kind === 'share'
              ? { ...one, attributes: { gib: 1 } }
              : one.kind === 'pool'
                ? { ...one, attributes: { seats: 99, arrival: 'fill' } }
                : one.kind === 'publication'
                  ? { ...one, attributes: { items: [], licences: 1 } }
                  : one,
          ),
        },
      ],
      [
        'a network and a subnet elsewhere',
        {
          ...standing,
          present: standing.present.map((one) =>
            one.kind === 'network' || one.kind === 'subnet'
              ? { ...one, attributes: { cidr: '10.99.0.0/16' } }
              : one,
          ),
        },
      ],
      ['a stray', stray],
      [
        'one that a run is at work on',
        {
          ...there('host:desks:2'),
          known: standing.known.map((one) =>
            one.key === 'host:desks:2' ? { ...one, unsettled: true } : one,
          ),
        },
      ],
      ['a publication of several items less', attributes('publication:desks', { items: ['One', 'Two'] })],
      ['a node that is told as none', attributes('share:desks', { site: null })],
      ['one that goes, and a run is at work on it', leavingOne],
      [
        'one that should have gone',
        {
          ...leavingOne,
          known: leavingOne.known.map((one) => (one.wanted ? one : { ...one, unsettled: false })),
        },
      ],
      [
        'one that is there twice',
        {
          ...standing,
          present: standing.present.flatMap((one) =>
            one.key === 'host:desks:1' ? [one, { ...one, ref: 'its double' }] : [one],
          ),
        },
      ],
    ];
    const text = situations
      .map(([name, from]) =>
        [`## ${name}`, ...compare(RESOURCE_KINDS, from).map((one) => JSON.stringify(one))].join('\n'),
      )
      .join('\n\n');
    await expect(`${text}\n`).toMatchFileSnapshot('./expected/differences.txt');
  });
});
