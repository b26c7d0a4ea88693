// ./laager admin: makes the first lead, resets passwords, ends sign-ins; on the database named by the environment.
import { spawnSync } from 'node:child_process';

const NEEDED = ['LAAGER_DB_HOST', 'LAAGER_DB_USER', 'LAAGER_DB_NAME', 'LAAGER_SECRET_KEY'];
const missing = NEEDED.filter((name) => !process.env[name]);
if (missing.length > 0) {
  process.stderr.write(`Set ${missing.join(', ')}; docs/operations.md tells what they are.\n`);
  process.exit(1);
}
/**
 * @param {string} file
 * @param {string[]} args
 * @param {import('node:child_process').StdioOptions} stdio
 */
const node = (file, args = [], stdio = 'inherit') =>
  spawnSync('node', [file, ...args], { stdio }).status ?? 1;
const migrated = node('dist/node/migrate.mjs', [], ['ignore', 'ignore', 'inherit']);
process.exit(migrated === 0 ? node('dist/node/admin.mjs', process.argv.slice(2)) : migrated);
