import type { Processes, Member } from './lib.mjs';

export interface Parts {
  readonly address: string;
  readonly members: Readonly<Record<string, Member>>;
  readonly loaded: { readonly loaded: boolean; readonly token?: string };
  readonly env: Readonly<Record<string, string>>;
}

/** How the programs are run: as they were built, or from their sources, again on each change. */
export interface How {
  readonly mode: string;
  program(name: string): [string, string[]];
  once(name: string): [string, string[]];
  web(port: number): [string, string[]];
}
export const BUILT: How;
export const WATCHED: How;
export const LAYOUT: number;
/** What MariaDB is given when it holds millions of rows. */
export const LARGE: readonly string[];

export function startParts(
  processes: Processes,
  options: {
    databasePort: number;
    prefix: string;
    webPort: number;
    logs: string;
    workers?: number;
    scenario?: Scenario;
    env?: Readonly<Record<string, string>>;
    onLoaded?: (loaded: Parts['loaded']) => void;
    onExit?: (member: Member, code: number) => void;
    again?: (member: Member, code: number) => void;
    how?: How;
  },
): Promise<Parts>;

export type Scenario = 'eight' | 'fleet' | 'empty';

export function printEmpty(parts: Parts, password: string): void;
export function printSignIns(address: string, password: string): void;
export function printDesk(parts: Pick<Parts, 'address' | 'env'>): void;
