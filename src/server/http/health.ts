import type { App } from '../app';

export interface Health {
  readonly works: boolean;
  readonly parts: Readonly<Record<string, { readonly works: boolean; readonly says: string }>>;
}

/** Worker duties are done every few seconds; one that has not been for so long is not being done. */
const LATE_MS = 20_000;

/** Says of each part whether it works: the database, the worker, the provider and the directory. Holds no secret. */
export async function health(app: App): Promise<Health> {
  const [database, worker, provider, directory] = await Promise.all([
    part(async () => {
      await app.db.row('SELECT 1');
      return 'answers';
    }),
    part(async () => {
      const row = await app.db.row<{ due: number }>("SELECT due_wall AS due FROM duty WHERE name = 'tally'");
      if (!row) throw new Error('has not begun yet');
      if (row.due < app.clock.wall() - LATE_MS) throw new Error('has not been seen for a while');
      return 'at work';
    }),
    part(async () => {
      const row = await app.db.row<{ sign_in_works: number; sign_in_says: string }>(
        'SELECT sign_in_works, sign_in_says FROM provider LIMIT 1',
      );
      if (!row) throw new Error('none is connected');
      if (row.sign_in_works !== 1) throw new Error(row.sign_in_says);
      return row.sign_in_says;
    }),
    part(async () => {
      await app.directory.computers('health.example');
      return 'answers';
    }),
  ]);
  const parts = { database, worker, provider, directory };
  return { works: Object.values(parts).every((one) => one.works), parts };
}

async function part(look: () => Promise<string>): Promise<{ works: boolean; says: string }> {
  return look().then(
    (says) => ({ works: true, says }),
    (error: unknown) => ({ works: false, says: error instanceof Error ? error.message : String(error) }),
  );
}
