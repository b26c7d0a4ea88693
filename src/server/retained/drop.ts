import { systemScope } from '../access';
import type { App } from '../app';
import { beginByItself } from '../changes';
import { overdue } from './read';

/** Removes what was retained, once its day has come: one run for each environment. */
export async function dropOverdue(app: App): Promise<void> {
  const byEnvironment = new Map<string, Awaited<ReturnType<typeof overdue>>>();
  for (const one of await overdue(app.db, app.clock.now())) {
    const key = `${one.customer} ${one.environment}`;
    byEnvironment.set(key, [...(byEnvironment.get(key) ?? []), one]);
  }
  for (const [first, ...others] of byEnvironment.values()) {
    if (!first) continue;
    const { customer: id, code, environment } = first;
    const retained = [first, ...others].map((one) => one.id);
    const asked = { input: { retained }, environment };
    const reason = 'they were kept as long as was promised';
    await beginByItself(app, systemScope({ id, code }), 'drop-retained', asked, reason);
  }
}
