import { vi } from 'vitest';
import type { World } from './world';

/** What some work asked: of the database each statement, of anything outside how often. */
export async function spied<Made>(
  { app }: Pick<World, 'app'>,
  work: () => Promise<Made>,
): Promise<{ readonly made: Made; readonly said: readonly string[]; readonly outside: number }> {
  const connection = await app.db.pool.getConnection();
  const prototype = Object.getPrototypeOf(connection) as typeof connection;
  connection.release();
  const [execute, fetched] = [vi.spyOn(prototype, 'execute'), vi.spyOn(globalThis, 'fetch')];
  try {
    const made = await work();
    return {
      made,
      said: execute.mock.calls.map(([statement]) => String(statement)),
      outside: fetched.mock.calls.length,
    };
  } finally {
    execute.mockRestore();
    fetched.mockRestore();
  }
}
