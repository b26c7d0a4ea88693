import { createHash, randomBytes } from 'node:crypto';
import { FLEET, makeFleet } from '../src/demo/fleet';
import { seedGround } from '../src/demo/seed';
import { migrate, newId } from '../src/server/db';
import { openProcess } from '../src/main/app';
import type { App } from '../src/server/app';
import { readDatabaseSettings } from '../src/server/config';
import { makeToken } from '../src/server/sign-in';

/** Laager's database with the fleet in it. Prints the token of an operator who reaches all of it. */
export async function openBench(): Promise<App> {
  await migrate(readDatabaseSettings(process.env));
  const { app } = await openProcess('bench');
  const now = app.clock.now();
  const [coast = '', northern = ''] = (process.env.LAAGER_SIMULATION_URLS ?? '').split(',');
  await seedGround(app, { urls: { coast, northern }, secret: process.env.PROVIDER_SECRET ?? '' }, now, now);
  const began = performance.now();
  console.log(
    `Making the fleet: ${FLEET.customers} customers, ${FLEET.hosts} hosts, ${FLEET.hosts * FLEET.intervalsAHost} intervals`,
  );
  await makeFleet(app, FLEET, (line) => console.log(line));
  console.log(`  made in ${Math.round((performance.now() - began) / 1000)} s`);
  const id = newId();
  await app.db.write(
    "INSERT INTO operator (id, name, mail, role, reach, password_hash) VALUES (?, 'Bench', 'bench@terntallow.example', 'lead', 'every', '')",
    [id],
  );
  const scope = { actor: { id, name: 'Bench', role: 'lead' as const }, customers: undefined };
  console.log(`TOKEN ${(await makeToken(app, scope, { name: 'bench', days: 1 })).token}`);
  const cookie = randomBytes(24).toString('base64url');
  const wall = app.clock.wall();
  await app.db.write(
    'INSERT INTO web_session (token_hash, operator_id, created_at, expires_at) VALUES (?, ?, ?, ?)',
    [createHash('sha256').update(cookie).digest('hex'), id, wall, wall + 3_600_000],
  );
  console.log(`COOKIE ${cookie}`);
  return app;
}
