import { spawnSync } from 'node:child_process';
import { describe, expect, it } from 'vitest';
import { readConfig, readDatabaseSettings } from '../../src/server/config';

const SECRETS = {
  LAAGER_SECRET_KEY: 'the key that nobody may read, ever',
  LAAGER_DB_PASSWORD: 'hunter2-and-more',
};

/** What is set in the environment: a wrong one is named, and none is ever shown. */
describe('settings', () => {
  const cases: readonly (readonly [string, Record<string, string>])[] = [
    ['LAAGER_DB_PORT', { LAAGER_DB_PORT: 'no port' }],
    ['LAAGER_DB_HOST', { LAAGER_DB_HOST: 'db 1' }],
    ['LAAGER_MAIL_URL', { LAAGER_MAIL_URL: 'mail' }],
    ['LAAGER_LOG', { LAAGER_LOG: 'loud' }],
    ['LAAGER_LEASE_MS', { LAAGER_LEASE_MS: 'soon' }],
    ['LAAGER_SECRET_KEY', { LAAGER_SECRET_KEY: 'short' }],
    ['LAAGER_GATES', { LAAGER_GATES: 'gate.example' }],
  ];
  it.each(cases)('%s is named where it cannot be used, and nothing else is told', (name, wrong) => {
    const env = { LAAGER_DB_HOST: 'db', LAAGER_DB_USER: 'u', LAAGER_DB_NAME: 'n', ...SECRETS, ...wrong };
    let found: unknown;
    try {
      readConfig(env);
    } catch (error) {
      found = error;
    }
    expect(found).toBeInstanceOf(Error);
    const shown = JSON.stringify(found, Object.getOwnPropertyNames(found)) + String((found as Error).stack);
    expect((found as Error).message).toContain(name);
    for (const secret of Object.values(SECRETS)) expect(shown).not.toContain(secret);
  });

  it.each([
    ['migrate', 'dist/node/migrate.mjs', { LAAGER_DB_PORT: 'no port' }],
    ['web', 'dist/node/web.mjs', { LAAGER_SECRET_KEY: 'short' }],
    ['web at no port', 'dist/node/web.mjs', { PORT: 'x' }],
    ['worker', 'dist/node/worker.mjs', { LAAGER_LEASE_MS: 'soon' }],
  ])('a %s that cannot start ends, and prints no setting', (_what, program, wrong) => {
    const env = {
      PATH: process.env.PATH ?? '',
      LAAGER_DB_HOST: '127.0.0.1',
      LAAGER_DB_USER: 'u',
      LAAGER_DB_NAME: 'n',
      ...SECRETS,
      ...wrong,
    };
    const { status, stdout, stderr } = spawnSync('node', [program], {
      env,
      encoding: 'utf8',
      timeout: 30_000,
    });
    expect(status).toBe(1);
    for (const secret of Object.values(SECRETS)) expect(stdout + stderr).not.toContain(secret);
  });

  it('name another account for migrations, and only for those', () => {
    const env = { LAAGER_DB_HOST: 'db', LAAGER_DB_USER: 'app', ...SECRETS };
    const admin = { LAAGER_DB_ADMIN_USER: 'owner', LAAGER_DB_ADMIN_PASSWORD: 'of the owner' };
    expect(readDatabaseSettings(env)).toMatchObject({ user: 'app', password: SECRETS.LAAGER_DB_PASSWORD });
    expect(readDatabaseSettings({ ...env, ...admin })).toMatchObject({
      user: 'owner',
      password: 'of the owner',
    });
    expect(readConfig({ ...env, ...admin }).database).toMatchObject({ user: 'app' });
  });
});
