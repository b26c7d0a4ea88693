import type { Processes, Member } from './lib.mjs';

export interface Parts {
  readonly address: string;
  readonly members: Readonly<Record<string, Member>>;
  readonly loaded: { readonly loaded: boolean; readonly token?: string };
  readonly env: Readonly<Record<string, string>>;
}

export function startParts(
  processes: Processes,
  options: {
    databasePort: number;
    prefix: string;
    webPort: number;
    logs: string;
    workers?: number;
    env?: Readonly<Record<string, string>>;
    onExit?: (member: Member, code: number) => void;
  },
): Promise<Parts>;
