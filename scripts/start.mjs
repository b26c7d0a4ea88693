// ./laager start: worker and web server against a MariaDB named by the environment; see docs/operations.md.
import { command, Refusal, runProgram, say, untilAnswers } from './lib.mjs';

const NEEDED = ['LAAGER_DB_HOST', 'LAAGER_DB_USER', 'LAAGER_DB_NAME', 'LAAGER_SECRET_KEY'];

await command(
  async (processes, end) => {
    const missing = NEEDED.filter((name) => !process.env[name]);
    if (missing.length > 0)
      throw new Refusal(`Set ${missing.join(', ')}; docs/operations.md tells what they are.`);
    const env = { NODE_ENV: 'production' };
    // Who creates tables is told to nobody but who migrates.
    const serving = { ...env, LAAGER_DB_ADMIN_USER: undefined, LAAGER_DB_ADMIN_PASSWORD: undefined };
    const host = process.env.HOST ?? '127.0.0.1';
    const port = process.env.PORT ?? '4700';
    const log = process.stdout;
    const onExit = (member, code) => {
      process.stderr.write(`The ${member.name} does not stay up (${code}): ${member.tail()}\n`);
      void end(1);
    };
    const again = (member, code) => say(`The ${member.name} ended by itself (${code}); it is started again.`);
    await runProgram(processes, 'migrate', ['node', ['dist/node/migrate.mjs']], env, log);
    processes.start('worker', 'node', ['dist/node/worker.mjs'], { env: serving, log, onExit, again });
    const web = processes.start('web', 'node', ['dist/node/web.mjs'], {
      env: { ...serving, HOST: host, PORT: port },
      log,
      onExit,
      again,
    });
    await untilAnswers(`http://127.0.0.1:${port}/sign-in`, web);
    say(`Laager is at http://${host}:${port}`);
  },
  { stopped: 0 },
);
