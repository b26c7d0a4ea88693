import { randomBytes } from 'node:crypto';
import { parseArgs } from 'node:util';
import { SYSTEM } from '../server/access';
import type { App } from '../server/app';
import { createOperator, isLead, listOperators, resetPassword } from '../server/operators';
import { conflict, Problem } from '../server/problem';
import { dropFactorByMail, endToken, endWaysIn, listWaysIn } from '../server/sign-in';
import { ROOMS } from '../server/rooms';
import { openProcess } from './app';

/*
 * ./laager admin: what has to be possible before anybody can sign in, or when nobody can. It works on the database that
 * the environment names; whoever can reach that is let do it, and it is on the trail as done by Laager.
 */

const USAGE = `./laager admin first-lead --mail MAIL --name NAME   takes on the first lead of an empty database
./laager admin reset-password --mail MAIL          gives a new password and ends every sign-in
./laager admin sign-ins                            lists who is signed in, and the API tokens
./laager admin end-sign-ins --mail MAIL            ends an operator's sign-ins and tokens
./laager admin end-token --id ID                   ends one API token
./laager admin drop-factor --mail MAIL             takes a second factor away that was lost
./laager admin seal-anew                           seals every secret with the key that seals now
`;

const newPassword = (): string => randomBytes(12).toString('base64url');
const say = (line: string): void => void process.stdout.write(`${line}\n`);

interface Options {
  readonly mail?: string | undefined;
  readonly name?: string | undefined;
  readonly id?: string | undefined;
}

function wanted(options: Options, name: keyof Options): string {
  const value = options[name]?.trim() ?? '';
  if (value === '') throw new Problem(422, name, `--${name} is missing.`);
  return value;
}

const COMMANDS: Readonly<Record<string, (app: App, options: Options) => Promise<void>>> = {
  'first-lead': async (app, options) => {
    const [mail, name] = [wanted(options, 'mail'), wanted(options, 'name')];
    if ((await listOperators(app.db, SYSTEM, app.clock.wall())).some((one) => isLead(one.role)))
      throw conflict('lead', 'There is a lead already, who can take on others.');
    const password = newPassword();
    await createOperator(app, SYSTEM, { mail, name, role: 'lead', customers: null, password });
    say(`${name} is a lead and signs in as ${mail.toLowerCase()} with the password ${password}`);
  },
  'reset-password': async (app, options) => {
    const password = newPassword();
    await resetPassword(app, SYSTEM, wanted(options, 'mail'), password);
    say(`The new password is ${password}`);
  },
  'sign-ins': async (app) => {
    const found = await listWaysIn(app.db, app.clock.wall());
    for (const one of found)
      say([one.mail, one.kind, one.id, one.name, new Date(one.createdAt).toISOString()].join('\t'));
    if (found.length === 0) say('nobody is signed in, and there are no tokens');
  },
  'end-sign-ins': async (app, options) => {
    say(`${await endWaysIn(app, SYSTEM, wanted(options, 'mail'))} ended`);
  },
  'end-token': async (app, options) => {
    await endToken(app, SYSTEM, wanted(options, 'id'));
    say('ended');
  },
  'drop-factor': async (app, options) => {
    await dropFactorByMail(app, SYSTEM, wanted(options, 'mail'));
    say('They sign in with their password alone now, and set up another second factor');
  },
  'seal-anew': async (app) => {
    for (const { reencrypts = {} } of ROOMS)
      for (const [what, again] of Object.entries(reencrypts)) say(`${await again(app)} ${what} sealed anew`);
  },
};

async function run(args: readonly string[]): Promise<void> {
  const { values, positionals } = parseArgs({
    args: [...args],
    allowPositionals: true,
    options: { mail: { type: 'string' }, name: { type: 'string' }, id: { type: 'string' } },
  });
  const command = COMMANDS[positionals[0] ?? ''];
  if (!command || positionals.length !== 1) throw new Problem(422, 'command', `Say what to do:\n${USAGE}`);
  const { app, close } = await openProcess('admin');
  try {
    await command(app, values);
  } finally {
    await close();
  }
}

try {
  await run(process.argv.slice(2));
} catch (error) {
  process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
  process.exitCode = 1;
}
