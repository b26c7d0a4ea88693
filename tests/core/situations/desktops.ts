import type { Facts } from '../../../src/core/facts';
import { carriedOut, input, poolSpec, proposed, spec } from '../setup/facts';
import { large, standing, type Case } from './standing';

/* Desktops of people's own: given out, moved, made anew, left and come back to. */

const drawing: Facts = {
  ...large,
  template: {
    code: 'draw',
    revision: 1,
    document: {
      ...spec,
      pools: [{ ...poolSpec, role: 'draw', kind: 'personal', mostSeats: 1, ownDiskGiB: 64 }],
    },
  },
};
const made = carriedOut(proposed('provision', { ...input, people: 3 }, drawing), drawing);
const knowing = (from: Facts, ...accounts: string[]): Facts => ({
  ...from,
  accounts: accounts.map((account) => ({ account, person: `id of ${account}` })),
});
const id = (slot: number): string => `id of host:draw:${slot}`;
/** Two of three are somebody's. */
export const given = carriedOut(
  proposed('assign-desktops', { pool: 'draw', people: ['kim', 'ola'] }, knowing(made, 'kim', 'ola')),
  made,
  { 'host:draw:1': 1 },
);
export const left = carriedOut(proposed('keep-desktops', { hosts: [id(2)] }, given), given);
export const archived = carriedOut(
  proposed('move-desktop', { host: id(1), person: 'ren', data: 'archived' }, knowing(given, 'ren')),
  given,
);

export const OF_DESKTOPS: readonly Case[] = [
  ['three of their own, with a disk each', 'provision', { ...input, people: 3 }, drawing],
  ['given to two', 'assign-desktops', { pool: 'draw', people: ['kim', 'ola'] }, knowing(made, 'kim', 'ola')],
  [
    'one of them nobody knows',
    'assign-desktops',
    { pool: 'draw', people: ['kim', 'gus'] },
    knowing(made, 'kim'),
  ],
  ['nobody that is known', 'assign-desktops', { pool: 'draw', people: ['gus'] }, made],
  [
    'one who has one',
    'assign-desktops',
    { pool: 'draw', people: ['kim', 'ren'] },
    knowing(given, 'kim', 'ren'),
  ],
  [
    'more than are free: one is built',
    'assign-desktops',
    { pool: 'draw', people: ['ren', 'sam'] },
    knowing(given, 'ren', 'sam'),
  ],
  [
    'more than there is room for',
    'assign-desktops',
    { pool: 'draw', people: Array.from({ length: 9 }, (_, n) => `p${n}`) },
    knowing(given, ...Array.from({ length: 9 }, (_, n) => `p${n}`)),
  ],
  [
    'a host that is somebody’s',
    'assign-desktops',
    { pool: 'draw', people: ['ren'], host: id(1) },
    knowing(given, 'ren'),
  ],
  [
    'in a pool that many share',
    'assign-desktops',
    { pool: 'desks', people: ['kim'] },
    knowing(standing, 'kim'),
  ],
  [
    'moved with all that is on it',
    'move-desktop',
    { host: id(1), person: 'ren', data: 'kept' },
    knowing(given, 'ren'),
  ],
  ['moved, and wiped', 'move-desktop', { host: id(1), person: 'ren', data: 'wiped' }, knowing(given, 'ren')],
  [
    'moved, and put aside',
    'move-desktop',
    { host: id(1), person: 'ren', data: 'archived' },
    knowing(given, 'ren'),
  ],
  [
    'moved to who has one',
    'move-desktop',
    { host: id(1), person: 'ola', data: 'kept' },
    knowing(given, 'ola'),
  ],
  ['moved to nobody that is known', 'move-desktop', { host: id(1), person: 'gus', data: 'kept' }, given],
  [
    'one that is nobody’s is moved',
    'move-desktop',
    { host: id(3), person: 'ren', data: 'kept' },
    knowing(given, 'ren'),
  ],
  ['one that is nobody’s is taken away', 'take-hosts', { pool: 'draw', hosts: 1 }, given],
  ['more than are nobody’s are not', 'take-hosts', { pool: 'draw', hosts: 2 }, given],
  ['rebuilt', 'rebuild-desktops', { hosts: [id(1)] }, given],
  ['a shared host is not', 'rebuild-desktops', { hosts: ['id of host:desks:1'] }, standing],
  ['its person left', 'keep-desktops', { hosts: [id(2)] }, given],
  ['left twice', 'keep-desktops', { hosts: [id(2)] }, left],
  ['left by nobody', 'keep-desktops', { hosts: [id(3)] }, given],
  ['come back to', 'give-back', { hosts: [id(2)] }, left],
  ['come back to without leaving', 'give-back', { hosts: [id(2)] }, given],
  [
    'ended, what was there put aside',
    'end-desktops',
    { hosts: [id(1)], data: 'archived', host: 'stays' },
    given,
  ],
  ['ended, and nothing of it left', 'end-desktops', { hosts: [id(2)], data: 'wiped', host: 'goes' }, left],
  ['a disk that was put aside goes', 'drop-disks', { disks: ['personal-disk:draw:1:1'] }, archived],
  ['a disk that is in use does not', 'drop-disks', { disks: ['personal-disk:draw:2:1'] }, archived],
];
