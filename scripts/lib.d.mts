import type { ChildProcess } from 'node:child_process';

export interface Member {
  readonly name: string;
  /** How often it was started again. */
  readonly again: number;
  readonly child: ChildProcess;
  readonly exited: Promise<number>;
  readonly gone?: boolean;
  readonly leaving?: boolean;
  tail(): string;
}

export class Processes {
  /** @param note a file that says which processes run */
  constructor(note?: string);
  start(
    name: string,
    command: string,
    args: readonly string[],
    options?: {
      env?: Readonly<Record<string, string>>;
      log?: { write(chunk: unknown): unknown };
      onExit?: (member: Member, code: number) => void;
      /** Told before it is started again; without it, it is not. */
      again?: (member: Member, code: number) => void;
    },
  ): Member;
  stop(member: Member, patienceMs?: number): Promise<void>;
  stopAll(): Promise<void>;
}

/** Ends what an earlier command left behind. @returns what was ended, by name and id */
export function endLeftovers(note: string): Promise<string[]>;
/** A process's id, and when it began, as the kernel tells it. */
export function identityOf(pid: number): { readonly pid: number; readonly began: string | undefined };
/** Makes sure that no database lives in a folder that is to be removed. */
export function refuseIfUsed(folder: string): void;
/** A file for what a program logs, readable by its owner only; when it is full it becomes `PATH.1`; one that cannot be written is dropped, and said once. */
export function logFile(path: string, mostBytes?: number): { write(chunk: unknown): unknown };

export function freePort(wanted: number): Promise<number>;
export function startMariaDb(
  processes: Processes,
  folder: string,
  port: number,
  options?: {
    log?: { write(chunk: unknown): unknown };
    args?: readonly string[];
    onExit?: (member: Member, code: number) => void;
    again?: (member: Member, code: number) => void;
  },
): Promise<Member>;
export function untilAnswers(
  url: string,
  member: Member,
  options?: { patienceMs?: number; good?: (status: number) => boolean },
): Promise<void>;

/** Runs a program to its end. @returns what it printed */
export function runProgram(
  processes: Processes,
  name: string,
  program: readonly [string, readonly string[]],
  env?: Readonly<Record<string, string>>,
  log?: { write(chunk: unknown): unknown },
): Promise<string>;
/** Runs a command's main part: a refusal becomes one line and exit 1; what was started is ended in any case. */
export function command(
  main: (processes: Processes, end: (code: number) => Promise<never>) => Promise<unknown>,
  options?: { readonly note?: string; readonly stopped?: number },
): Promise<void>;

/** Where a checkout keeps its own data. */
export const HOME: string;
export class Refusal extends Error {}
export function say(line: string): void;
export function lastLine(text: string | undefined): string;
export function isRoot(): boolean;
/** This checkout's own secret: made once, readable by its owner only. */
export function ownSecret(name: string): string;
/** Only one command at a time may use a checkout's data. @returns what lets go of it */
export function takeLock(file?: string): () => void;
export function checkNode(version?: string): void;
export function checkDisk(folder?: string, leastMb?: number): void;
export function needPrograms(programs: Readonly<Record<string, string>>, root?: boolean): void;
export function needModules(): void;
/** Builds when the sources have changed since the last build. */
export function needBuild(): void;
