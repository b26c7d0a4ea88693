import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import {
  endLeftovers,
  identityOf,
  logFile,
  Processes,
  refuseIfUsed,
  takeLock,
  type Member,
} from '../../scripts/lib.mjs';

/** A program that says its id and stays; and one that ends at once. */
const STAYS = ['-e', 'console.log(process.pid); setInterval(() => {}, 1000)'];
const ENDS = ['-e', 'console.log(process.pid); process.exit(3)'];

const lives = (pid: number): boolean => existsSync(`/proc/${pid}/stat`) && !isZombie(pid);
const isZombie = (pid: number): boolean => {
  try {
    return / Z /.test(readFileSync(`/proc/${pid}/stat`, 'utf8'));
  } catch {
    return true;
  }
};

describe('programs that a command started', () => {
  let folder: string;
  let processes: Processes;
  let note: string;
  beforeEach(() => {
    folder = mkdtempSync(join(tmpdir(), 'laager-keep-'));
    note = join(folder, 'processes.json');
    processes = new Processes(note);
  });
  afterEach(async () => {
    await processes.stopAll();
    rmSync(folder, { recursive: true, force: true });
  });

  it('are started again when they end by themselves, and that is noted', async () => {
    const said: string[] = [];
    const member = processes.start('sleeper', 'node', STAYS, {
      again: ({ name }, code) => said.push(`${name} ${code}`),
    });
    const first = member.child.pid ?? 0;
    member.child.kill('SIGKILL');
    await expect.poll(() => member.child.pid !== first && lives(member.child.pid ?? 0)).toBe(true);
    expect(said).toEqual(['sleeper -1']);
    expect(JSON.parse(readFileSync(note, 'utf8'))).toEqual([
      { name: 'sleeper', ...identityOf(member.child.pid ?? 0), again: 1 },
    ]);
    await processes.stop(member);
    expect(lives(member.child.pid ?? 0)).toBe(false);
    expect(said).toHaveLength(1);
  });

  it('are given up when they have ended five times within a minute', async () => {
    let tries = 0;
    const gaveUp = await new Promise<{ member: Member; code: number }>((resolve_) => {
      processes.start('broken', 'node', ENDS, {
        again: () => tries++,
        onExit: (member, code) => resolve_({ member, code }),
      });
    });
    expect(gaveUp).toMatchObject({ code: 3, member: { name: 'broken', again: 4 } });
    expect(tries).toBe(4);
  });

  /** A command of its own that starts a program which stays, and is killed. */
  const parent = async (): Promise<{ command: ChildProcess; child: number }> => {
    const script = `
      import { Processes } from ${JSON.stringify(resolve('scripts/lib.mjs'))};
      const member = new Processes(${JSON.stringify(note)}).start('sleeper', 'node', ${JSON.stringify(STAYS)});
      member.child.stdout.once('data', () => console.log(member.child.pid));
      setInterval(() => {}, 1000);`;
    const command = spawn('node', ['--input-type=module', '-e', script], {
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    const child = await new Promise<number>((done) =>
      command.stdout.once('data', (chunk: Buffer) => done(Number(chunk.toString()))),
    );
    return { command, child };
  };

  it('end when the command that started them is killed', async () => {
    const { command, child } = await parent();
    expect(lives(child)).toBe(true);
    command.kill('SIGKILL');
    await expect.poll(() => lives(child), { timeout: 10_000 }).toBe(false);
  });

  it('are ended by the next command when they are left all the same, and nobody else is', async () => {
    const left = spawn('node', STAYS, { stdio: 'ignore' });
    const other = spawn('node', STAYS, { stdio: 'ignore' });
    await expect.poll(() => lives(left.pid ?? 0) && lives(other.pid ?? 0)).toBe(true);
    writeFileSync(
      note,
      JSON.stringify([
        { name: 'worker1', ...identityOf(left.pid ?? 0), again: 0 },
        // The same id, but another process's by now.
        { name: 'web', pid: other.pid, began: '1', again: 0 },
        { name: 'mail', pid: 999_999_999, began: '1', again: 0 },
      ]),
    );
    expect(await endLeftovers(note)).toEqual([`worker1 (${left.pid ?? 0})`]);
    expect([lives(left.pid ?? 0), lives(other.pid ?? 0)]).toEqual([false, true]);
    other.kill('SIGKILL');
    writeFileSync(note, '{"cut o');
    expect(await endLeftovers(note)).toEqual([]);
    expect(await endLeftovers(join(folder, 'nothing.json'))).toEqual([]);
  });

  it('lock a checkout: not against one’s own id, nor against another program that has the id by now', () => {
    const lock = join(folder, 'running.pid');
    writeFileSync(lock, JSON.stringify({ pid: process.pid, began: '1' }));
    takeLock(lock)();
    writeFileSync(lock, JSON.stringify({ pid: process.ppid, began: '1' }));
    takeLock(lock)();
    writeFileSync(lock, JSON.stringify(identityOf(process.ppid)));
    expect(() => takeLock(lock)).toThrow(`process ${process.ppid}`);
  });

  it('keep a folder from being removed while a database lives in it', async () => {
    const data = join(folder, 'data');
    mkdirSync(data);
    const database = spawn('node', [...STAYS, '--', `--datadir=${data}`], { stdio: 'ignore' });
    await expect.poll(() => lives(database.pid ?? 0)).toBe(true);
    writeFileSync(join(data, 'mariadbd.pid'), String(database.pid));
    expect(() => refuseIfUsed(data)).toThrow(`process ${database.pid ?? 0}`);
    const gone = new Promise((done) => database.once('exit', done));
    database.kill('SIGKILL');
    await gone;
    refuseIfUsed(data);
    writeFileSync(join(data, 'mariadbd.pid'), String(process.pid));
    refuseIfUsed(data);
  });

  it('go on when their log cannot be written', async () => {
    // Writing to it fails as to a full disk: ENOSPC.
    const log = logFile('/dev/full');
    const member = processes.start('talker', 'node', ['-e', 'setInterval(() => console.log("x"), 20)'], {
      log,
    });
    await expect.poll(() => member.tail().split('|').length).toBe(3);
    expect(lives(member.child.pid ?? 0)).toBe(true);
    log.write('and more');
    expect(member.gone).toBe(false);
  });

  it('begin another log when theirs is full, and lose no line', async () => {
    const path = join(folder, 'talker.log');
    writeFileSync(path, 'of an earlier run\n');
    const log = logFile(path, 60);
    const lines = ['one', 'two', 'three', 'four', 'five', 'six'].map((word) => `${word} ${'x'.repeat(12)}\n`);
    for (const line of lines) log.write(line);
    const read = (file: string): string => (existsSync(file) ? readFileSync(file, 'utf8') : '');
    const all = (): string => read(`${path}.1`) + read(path);
    await expect.poll(all).toBe(`of an earlier run\n${lines.join('')}`);
    expect(read(path).length).toBeGreaterThan(0);
    expect(read(`${path}.1`).length).toBeLessThan(100);
  });
});
