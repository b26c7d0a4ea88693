// Builds the web server, the worker, the stand-ins and the demo's loader into dist/.
import { spawnSync } from 'node:child_process';
import { rmSync } from 'node:fs';
import { build } from 'esbuild';
import { boundToUs } from './checks.mjs';

// Whoever builds by hand may build something else than what was marked.
rmSync('dist/.sources', { force: true });
rmSync('dist/node', { recursive: true, force: true });

const web = spawnSync(...boundToUs('node_modules/.bin/astro', ['build']), {
  stdio: process.argv.includes('--quiet') ? ['ignore', 'ignore', 'inherit'] : 'inherit',
  // Also when a test run builds: its own mode is not the program's.
  env: { ...process.env, NODE_ENV: 'production', ASTRO_TELEMETRY_DISABLED: '1' },
});
if (web.status !== 0) process.exit(web.status ?? 1);

await build({
  entryPoints: {
    web: 'src/main/serve.ts',
    worker: 'src/main/worker.ts',
    provider: 'src/standins/provider/main.ts',
    directory: 'src/standins/directory/main.ts',
    mail: 'src/standins/mail/main.ts',
    identity: 'src/standins/identity/main.ts',
    thread: 'src/main/thread.ts',
    migrate: 'src/main/migrate.ts',
    admin: 'src/main/admin.ts',
    demo: 'src/demo/main.ts',
    bench: 'bench/main.ts',
  },
  outdir: 'dist/node',
  outExtension: { '.js': '.mjs' },
  bundle: true,
  splitting: true,
  // A process starts in half the time when its packages stand in one file. What is native stays outside, and what few need.
  external: ['@node-rs/argon2', 'umzug'],
  banner: {
    // Under a name of its own: a package may import the same.
    js: "import { createRequire as requireFrom } from 'node:module'; const require = requireFrom(import.meta.url);",
  },
  platform: 'node',
  format: 'esm',
  target: 'node20',
  sourcemap: true,
  logLevel: 'warning',
});
