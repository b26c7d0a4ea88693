import { setTimeout as pause } from 'node:timers/promises';
import type { Connected, Providers } from './service';

/**
 * Does something at each provider, at the same time. One that does not answer holds up none of the others: as long as it
 * is waited for, it is done at them again as often as ever.
 */
export async function atEach(
  { providers }: { readonly providers: Pick<Providers, 'named' | 'all'> },
  everyMs: number,
  work: (provider: Connected) => Promise<void>,
): Promise<void> {
  const once = async (code: string): Promise<void> => work(await providers.named(code));
  const codes = (await providers.all()).map((one) => one.code);
  const first = codes.map(once);
  const everyone = Promise.allSettled(first).then(() => 'done');
  const again = (): Promise<string> => pause(everyMs, 'again', { ref: false });
  const outcomes = await Promise.allSettled(
    codes.map(async (code, n) => {
      await first[n];
      while ((await Promise.race([everyone, again()])) === 'again') await once(code);
    }),
  );
  const failed = outcomes.find((one) => one.status === 'rejected');
  if (failed) throw failed.reason;
}
