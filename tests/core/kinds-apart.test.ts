import { readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { RESOURCE_KINDS } from '../../src/core/resources';

/** What works with every kind of resource, and so knows none of them by name. */
const ROOMS = [
  'src/core/planning',
  'src/core/changes',
  'src/core/runs',
  'src/server/changes',
  'src/server/claims',
  'src/server/holds',
  'src/server/runs',
  'src/server/worker',
  'src/server/environments/proof.ts',
  'src/server/environments/end.ts',
  'src/server/resources/environment.ts',
];

function filesIn(path: string): string[] {
  if (statSync(path).isFile()) return [path];
  return readdirSync(path).flatMap((name) => filesIn(join(path, name)));
}

/** Places where a kind is named: its name beside the word kind, or at the head of a key. */
function kindsNamedIn(text: string): string[] {
  const names = RESOURCE_KINDS.map(({ key }) => key).join('|');
  const asKind = new RegExp(`\\bkind\\W{1,12}['"\`](?:${names})['"\`]`, 'g');
  const asKey = new RegExp(`['"\`](?:${names}):`, 'g');
  const inList = new RegExp(`\\bkind IN \\([^)]*'(?:${names})'`, 'g');
  const code = text.replaceAll(/\/\*[\s\S]*?\*\/|(?<!:)\/\/.*$/gm, '');
  return [asKind, asKey, inList].flatMap((found) => code.match(found) ?? []);
}

describe('kinds of resources', () => {
  it.each(ROOMS)('are not named in %s', (room) => {
    expect(filesIn(room).flatMap((file) => kindsNamedIn(readFileSync(file, 'utf8')))).toEqual([]);
  });

  it('would be found where they are named', () => {
    for (const line of [
      "one.kind === 'host' && one.wanted",
      "filter(({ kind }) => kind === 'subnet')",
      "WHERE p.kind = 'host'",
      'key: `gateway:${site}`',
      "kind IN ('share', 'host')",
    ])
      expect(kindsNamedIn(line)).toHaveLength(1);
    expect(kindsNamedIn("blocks('image', title, says)")).toEqual([]);
  });
});
