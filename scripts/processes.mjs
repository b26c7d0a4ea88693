// Programs that end with the command that started them: told to, by a crash of their own, or because it was killed.
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { execa } from 'execa';
import { boundToUs, HOME, Refusal } from './checks.mjs';

/** A program that ends so often within a minute is not started again. */
const MOST_ENDS = 5;
const MINUTE = 60_000;

export class Processes {
  #members = [];
  #ended = false;
  #note;

  /** @param note a file that says which processes run, for whoever comes after a power cut */
  constructor(note) {
    this.#note = note;
  }

  /**
   * Starts a program; its output goes to a file. `onExit` is called when it ends before it is told to.
   * With `again` it is then started again, with growing pauses, until it has ended five times within a minute.
   * @param {string} name @param {string} command @param {string[]} args
   * @param {{ env?: any, log?: any, onExit?: any, again?: any }} options
   */
  start(name, command, args, { env, log, onExit, again } = {}) {
    const lines = [];
    const member = {
      name,
      again: 0,
      tail: () => lines.join('').trim().split('\n').slice(-3).join(' | '),
    };
    const keep = (chunk) => {
      lines.push(String(chunk));
      if (lines.length > 200) lines.shift();
      log?.write(chunk);
    };
    const ends = [];
    const begin = () => {
      const child = execa(...boundToUs(command, args), {
        env,
        stdin: 'ignore',
        buffer: false,
        reject: false,
        // Ctrl-C reaches only us: we end the others, in order.
        detached: true,
        cleanup: true,
      });
      child.stdout.on('data', keep);
      child.stderr.on('data', keep);
      member.child = child;
      member.gone = false;
      member.exited = child.then(({ exitCode, message }) => {
        if (exitCode === undefined && message) lines.push(message);
        member.gone = true;
        this.#noteMembers();
        return exitCode ?? -1;
      });
      void member.exited.then((code) => {
        if (this.#ended || member.leaving) return;
        ends.push(Date.now());
        const recent = ends.filter((at) => at > Date.now() - MINUTE).length;
        if (!again || recent >= MOST_ENDS) return onExit?.(member, code);
        member.again++;
        again(member, code);
        setTimeout(
          () => {
            if (!this.#ended && !member.leaving) begin();
          },
          250 * 2 ** recent,
        ).unref();
      });
      this.#noteMembers();
    };
    begin();
    this.#members.push(member);
    this.#noteMembers();
    return member;
  }

  async stop(member, patienceMs = 15_000) {
    member.leaving = true;
    if (member.gone) return;
    member.child.kill('SIGTERM');
    const ended = await Promise.race([member.exited, pause(patienceMs, 'late', { ref: false })]);
    if (ended === 'late') member.child.kill('SIGKILL');
    await member.exited;
  }

  async stopAll() {
    this.#ended = true;
    for (const member of [...this.#members].reverse()) await this.stop(member);
  }

  #noteMembers() {
    if (this.#note === undefined) return;
    const running = this.#members
      .filter((one) => !one.gone && one.child.pid !== undefined)
      .map(({ name, child, again }) => ({ name, ...identityOf(child.pid), again }));
    try {
      writeFileSync(this.#note, JSON.stringify(running), { mode: 0o600 });
    } catch {
      // A full disk ends nobody: then who comes after us has less to go by.
    }
  }
}

/** A process's id, and when it began: an id alone may be another's by now (proc(5), field 22). */
export function identityOf(pid) {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    return { pid, began: stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19] };
  } catch {
    return { pid, began: undefined };
  }
}

const lives = ({ pid, began }) => began !== undefined && identityOf(pid).began === began;

/** One that ends by itself at this very moment needs no signal. */
function signal({ pid }, name) {
  try {
    process.kill(pid, name);
  } catch (error) {
    if (error.code !== 'ESRCH') throw error;
  }
}

/** Ends what an earlier command left behind, by the ids that it noted. @returns the names of what was ended */
export async function endLeftovers(note) {
  if (!existsSync(note)) return [];
  let noted = [];
  try {
    noted = JSON.parse(readFileSync(note, 'utf8'));
  } catch {
    // Cut off while it was written.
  }
  const left = noted.filter(lives).reverse();
  for (const one of left) {
    signal(one, 'SIGTERM');
    for (let tries = 0; tries < 150 && lives(one); tries++) await pause(100);
    if (lives(one)) signal(one, 'SIGKILL');
  }
  return left.map(({ name, pid }) => `${name} (${pid})`);
}

/** Only one command at a time may use a checkout's data. @returns what lets go of it */
export function takeLock(file = join(HOME, 'running.pid')) {
  mkdirSync(HOME, { recursive: true });
  const holder = holderOf(file);
  if (holder && holder.pid !== process.pid && lives(holder))
    throw new Refusal(`Laager is running here already (process ${holder.pid}). Stop it first.`);
  writeFileSync(file, JSON.stringify(identityOf(process.pid)));
  return () => rmSync(file, { force: true });
}

function holderOf(file) {
  try {
    return JSON.parse(readFileSync(file, 'utf8'));
  } catch {
    return undefined;
  }
}

/** Makes sure that no database lives in a folder that is to be removed. */
export function refuseIfUsed(folder) {
  const file = join(folder, 'mariadbd.pid');
  if (!existsSync(file)) return;
  const pid = Number(readFileSync(file, 'utf8'));
  const command = existsSync(`/proc/${pid}/cmdline`) ? readFileSync(`/proc/${pid}/cmdline`, 'utf8') : '';
  if (command.includes(folder))
    throw new Refusal(`A database still uses ${folder} (process ${pid}). Stop it first.`);
}
