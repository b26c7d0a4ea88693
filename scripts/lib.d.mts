import type { ChildProcess } from 'node:child_process';
import type { Writable } from 'node:stream';

export interface Member {
  readonly name: string;
  readonly child: ChildProcess;
  readonly exited: Promise<number>;
  readonly gone?: boolean;
  tail(): string;
}

export class Processes {
  start(
    name: string,
    command: string,
    args: readonly string[],
    options: {
      env?: Readonly<Record<string, string>>;
      log?: Writable;
      onExit?: (member: Member, code: number) => void;
    },
  ): Member;
  stop(member: Member, patienceMs?: number): Promise<void>;
  stopAll(): Promise<void>;
}

export function freePort(wanted: number): Promise<number>;
export function startMariaDb(
  processes: Processes,
  folder: string,
  port: number,
  options?: { log?: Writable; args?: readonly string[] },
): Promise<Member>;
export function untilAnswers(
  url: string,
  member: Member,
  options?: { patienceMs?: number; good?: (status: number) => boolean },
): Promise<void>;

/** Builds when the sources have changed since the last build. */
export function needBuild(): void;

export const HOME: string;

export class Refusal extends Error {}
export function checkNode(version?: string): void;
export function checkDisk(folder?: string, leastMb?: number): void;
export function needPrograms(programs: Readonly<Record<string, string>>, root?: boolean): void;
