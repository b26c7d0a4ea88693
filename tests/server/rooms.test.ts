import { readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { ROOMS } from '../../src/server/rooms';

/* What rooms say of themselves, held against their code. */

const SERVER = join(import.meta.dirname, '../../src/server');

/** Every table that the migrations leave. */
function tablesOf(): Set<string> {
  const folder = join(SERVER, 'db/migrations');
  const tables = new Set<string>();
  for (const file of readdirSync(folder).sort()) {
    const text = readFileSync(join(folder, file), 'utf8').replace(/--.*$/gm, '');
    for (const [, verb, name = ''] of text.matchAll(/\b(CREATE|DROP) TABLE (?:IF (?:NOT )?EXISTS )?`?(\w+)/g))
      if (verb === 'CREATE') tables.add(name);
      else tables.delete(name);
  }
  return tables;
}

const filesOf = (folder: string): string[] =>
  readdirSync(folder, { withFileTypes: true, recursive: true }).flatMap((one) =>
    one.isFile() && one.name.endsWith('.ts') ? [join(one.parentPath, one.name)] : [],
  );

/** The tables that a room's statements write. */
function writtenIn(room: string, tables: ReadonlySet<string>): Set<string> {
  const text = filesOf(join(SERVER, room))
    .map((file) => readFileSync(file, 'utf8'))
    .join('\n');
  const named = [
    ...text.matchAll(
      /\b(?:INSERT(?: IGNORE)? INTO|REPLACE INTO|UPDATE|DELETE FROM|DELETE \w+ FROM)\s+`?(\w+)/g,
    ),
    ...text.matchAll(/\binsertMany\(\s*[\w.]+,\s*'(\w+)'/g),
  ].map(([, name = '']) => name);
  return new Set(named.filter((name) => tables.has(name)));
}

describe('rooms of the server', () => {
  const tables = tablesOf();
  const folders = readdirSync(SERVER).filter((name) => statSync(join(SERVER, name)).isDirectory());

  it('are listed where they have a manifest, under their own names, once', () => {
    const withManifest = folders.filter((name) => readdirSync(join(SERVER, name)).includes('manifest.ts'));
    expect(ROOMS.map(({ room }) => room).sort()).toEqual(withManifest.sort());
    const withRoutes = folders.filter(
      (name) => name !== 'http' && readdirSync(join(SERVER, name)).includes('routes.ts'),
    );
    const serving = ROOMS.filter((one) => one.routes !== undefined || one.routesOf !== undefined);
    expect(serving.map(({ room }) => room).sort()).toEqual(withRoutes.sort());
  });

  it('own every table, and each table is one room’s', () => {
    const owned = ROOMS.flatMap((one) => one.tables ?? []);
    expect([...owned].sort()).toEqual([...tables].sort());
  });

  it.each(folders)('%s writes the tables that it says, and no others', (room) => {
    const { tables: own = [], alsoWrites = {} } = ROOMS.find((one) => one.room === room) ?? {};
    const written = writtenIn(room, tables);
    expect([...written].filter((name) => !own.includes(name) && !Object.hasOwn(alsoWrites, name))).toEqual(
      [],
    );
    // What is said to be written too is: else it can go.
    expect(Object.keys(alsoWrites).filter((name) => !written.has(name))).toEqual([]);
  });

  it('have jobs of different names, and name differently what they keep encrypted', () => {
    const jobs = ROOMS.flatMap((one) => one.jobs ?? []).map(({ name }) => name);
    const encrypted = ROOMS.flatMap((one) => Object.keys(one.reencrypts ?? {}));
    for (const names of [jobs, encrypted]) expect(new Set(names).size).toBe(names.length);
  });
});
