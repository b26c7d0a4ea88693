import { describe, expect, it } from 'vitest';
import type { Facts, Grantee } from '../../src/core/facts';
import {
  compareTemplates,
  fill,
  readTemplate,
  writeTemplate,
  type TemplateDocument,
} from '../../src/core/templates';
import { writeTerm } from '../../src/core/terms';
import { carriedOut, facts, input, proposed } from './setup/facts';

const TEXT = `name: Clinic
naming: '{customer}-{role}{counter:2}'
inputs:
  - key: vets
    title: Who are the vets?
    type: group
pools:
  - role: desks
    image: Ostrel 12 multi-user
    people: =people
    concurrency: 1
    items:
      - name: Full desktop
        kind: desktop
      - name: Paddockbook
        for: =vets
`;
const VETS = '01J00000000000000000000001';
const AWAY = '01J00000000000000000000002';
const grantee = (id: string, over: Partial<Grantee> = {}): Grantee => ({
  id,
  to: 'group',
  name: 'Vets',
  unit: 'Groups',
  inScope: true,
  people: 7,
  ...over,
});
const read = (text: string): TemplateDocument => {
  const found = readTemplate(text);
  if (!found.ok) throw new Error(JSON.stringify(found.problem));
  return found.value;
};
const faults = (from: string, to: string): string => {
  const found = readTemplate(TEXT.replace(from, to));
  return (found.ok ? [] : found.problem.map((one) => `${one.line} ${one.says}`)).join('; ');
};
const from = (
  document = read(TEXT),
  grantees = [grantee(VETS), grantee(AWAY, { name: 'Locums', unit: 'Partners', inScope: false })],
): Facts => ({
  ...facts,
  template: { code: 'clinic', revision: 1, document },
  grantees,
});
const asked = (value: string) => ({ ...input, template: 'clinic', inputs: [{ key: 'vets', value }] });
const grantsOf = (proposal: ReturnType<typeof proposed>): string[] | undefined =>
  proposal.intent?.pools[0]?.grants.map(({ item, to, id }) => `${item} ${to} ${id}`.trim());

describe('a template whose items are for a group of each customer’s', () => {
  it('is written again as it was read', () => expect(read(writeTemplate(read(TEXT)))).toEqual(read(TEXT)));

  it.each([
    ['for: =vets', 'for: =nurses', '4 nothing says =vets; 12 there is no input nurses'],
    [
      'for: =vets',
      'for: 01J00000000000000000000001',
      `4 nothing says =vets; 12 "${VETS}" is nobody's: write "=key" of an input that names a group`,
    ],
    ['type: group', 'type: yes', '12 vets names no group'],
    ['people: =people', 'people: =vets', '10 vets is a group: it says for whom an item is'],
    ['type: group', 'type: group\n    usual: x', '7 does not belong to an input of type group'],
  ])('says at its line what is wrong: %j as %j', (one, other, says) => expect(faults(one, other)).toBe(says));

  it('grants it to the group that is filled in, and to nobody else', () => {
    const proposal = proposed('provision', asked(VETS), from());
    expect(proposal.refused).toBeUndefined();
    expect(grantsOf(proposal)).toEqual(['Full desktop everyone', `Paddockbook group ${VETS}`]);
    expect(proposal.intent?.pools[0]?.items).toEqual([
      { name: 'Full desktop', kind: 'desktop' },
      { name: 'Paddockbook', kind: 'app' },
    ]);
    expect(proposal.checks.find(({ key }) => key === 'groups')).toMatchObject({
      state: 'passes',
      says: 'Vets: 7 people',
    });
  });

  it('grants it to everyone where nobody is filled in', () =>
    expect(grantsOf(proposed('provision', asked(''), from()))).toEqual([
      'Full desktop everyone',
      'Paddockbook everyone',
    ]));

  it('refuses another customer’s group beside its field, and a group outside what is read before anything is made', () => {
    expect(proposed('provision', asked('01J00000000000000000000009'), from()).refused).toEqual({
      'inputs.vets': `is no group of ${facts.customer.code}`,
    });
    expect(proposed('provision', asked('the vets'), from()).refused).toEqual({
      'inputs.vets': 'is a group of theirs',
    });
    expect(
      proposed('provision', asked(AWAY), from()).checks.find(({ key }) => key === 'groups'),
    ).toMatchObject({
      state: 'blocks',
      says: 'Locums stands in Partners, outside what is read',
    });
    const pools = [{ role: 'desks', items: [{ name: 'Paddockbook', kind: 'app', for: '=vets' }] }];
    expect(proposed('provision', { ...asked(VETS), pools }, from()).refused).toHaveProperty('pools');
  });

  it('grants what a later revision adds to its group, and leaves what is granted as it is', () => {
    const before = carriedOut(proposed('provision', asked(VETS), from()), from());
    const later = read(`${TEXT}      - name: Tidewarden\n        for: =vets\n      - name: Murrelmail\n`);
    const moved = {
      ...before,
      template: { code: 'clinic', revision: 2, document: later },
      grantees: from().grantees ?? [],
    };
    const proposal = proposed('follow-template', {}, moved);
    expect(proposal.refused).toBeUndefined();
    expect(grantsOf(proposal)).toEqual([
      'Full desktop everyone',
      `Paddockbook group ${VETS}`,
      `Tidewarden group ${VETS}`,
      'Murrelmail everyone',
    ]);
    // Where what was for everyone was narrowed by hand, nothing new is everyone's.
    const [pool] = before.environment?.intent.pools ?? [];
    if (!before.environment || !pool) throw new Error('nothing stands');
    const narrowed = {
      ...moved,
      environment: {
        ...before.environment,
        intent: { ...before.environment.intent, pools: [{ ...pool, grants: pool.grants.slice(1) }] },
      },
    };
    expect(grantsOf(proposed('follow-template', {}, narrowed))).toEqual([
      `Paddockbook group ${VETS}`,
      `Tidewarden group ${VETS}`,
    ]);
  });

  it('is told in words, and a change of for whom is a change', () => {
    expect(writeTerm('items', read(TEXT).pools[0]?.items)).toBe('Full desktop, Paddockbook (for vets)');
    const open = read(TEXT.replace('        for: =vets\n', '      - name: Tidewarden\n        for: =vets\n'));
    expect(compareTemplates(read(TEXT), open).map(({ what }) => what)).toEqual(['Items']);
    const filled = fill(read(TEXT), { people: 4 });
    expect(filled.ok && filled.value.pools[0]?.items).toEqual([
      { name: 'Full desktop', kind: 'desktop' },
      { name: 'Paddockbook', kind: 'app' },
    ]);
  });
});
