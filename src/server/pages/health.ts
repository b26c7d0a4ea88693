import { readFile } from 'node:fs/promises';
import { setTimeout as pause } from 'node:timers/promises';
import Joi from 'joi';
import type { App } from '../app';
import { listProviders } from '../providers';

export interface Health {
  readonly works: boolean;
  readonly parts: Readonly<Record<string, { readonly works: boolean; readonly says: string }>>;
}

/** Worker jobs are done every few seconds; one that has not been for so long is not being done. */
const LATE_MS = 20_000;
/** A provider's record is read every two seconds at least. */
const SILENT_MS = 5_000;

/** Says of each part whether it works: the database, the worker, the provider and the directory. Holds no secret. */
export async function health(app: App): Promise<Health> {
  const [database, worker, provider, directory] = await Promise.all([
    part(async () => {
      await app.db.row('SELECT 1');
      return 'answers';
    }),
    part(async () => {
      const row = await app.db.row<{ done: number }>(
        "SELECT done_wall AS done FROM job WHERE name = 'summary'",
      );
      if (!row || row.done === 0) throw new Error('has not begun yet');
      if (row.done < app.clock.wall() - LATE_MS) throw new Error('has not been seen for a while');
      return 'at work';
    }),
    part(async () => {
      const providers = await listProviders(app.db);
      // Who connects the first has to be let in before.
      if (providers.length === 0) return 'none is connected yet';
      // A provider is well as long as its last good answer is not old: the workers ask each of them all the time.
      const late = providers.filter((one) => (one.answeredAt ?? 0) < app.clock.wall() - SILENT_MS);
      if (late.length > 0)
        throw new Error(late.map((one) => `${one.name} has not answered for a while`).join('; '));
      const refused = providers.find((one) => !one.signIn.worked);
      if (refused) throw new Error(refused.signIn.says);
      return providers.length === 1 ? 'answers' : 'answer';
    }),
    part(async () => {
      await app.directory.computers('health.example');
      return 'answers';
    }),
  ]);
  const parts: Health['parts'] = {
    database,
    worker,
    provider,
    directory,
    ...(app.processesFile === undefined ? {} : { processes: await processesOf(app.processesFile) }),
  };
  return { works: Object.values(parts).every((one) => one.works), parts };
}

const noted = Joi.array<{ name: string; again: number }[]>().items(
  Joi.object({ name: Joi.string().required(), again: Joi.number().required() }).unknown(),
);

/** Which processes run here, as whoever started them notes it, and which of them were started again. */
const processesOf = (file: string): ReturnType<typeof part> =>
  part(async () => {
    const { error, value } = noted.validate(JSON.parse(await readFile(file, 'utf8')));
    if (error) throw error;
    const again = value.filter((one) => one.again > 0);
    const says = again.map(
      (one) => `${one.name} was started again ${one.again === 1 ? 'once' : `${one.again} times`}`,
    );
    return [`${value.length} run`, ...says].join(', ');
  });

/** Whoever asks how it is has an answer by then. */
const ANSWER_MS = 3_000;

async function part(look: () => Promise<string>): Promise<{ works: boolean; says: string }> {
  const silence = pause(ANSWER_MS, undefined, { ref: false }).then(() => {
    throw new Error('does not answer');
  });
  return Promise.race([look(), silence]).then(
    (says) => ({ works: true, says }),
    (error: unknown) => ({ works: false, says: error instanceof Error ? error.message : String(error) }),
  );
}
