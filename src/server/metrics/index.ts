import { Gauge, Registry, type OpenMetricsContentType } from 'prom-client';
import { sameSecret } from '../access';
import type { App } from '../app';
import { FIGURES } from './figures';

/** Whether a request shows the token that figures are read with. Where none is set, none is. */
export function mayReadFigures({ metricsToken }: Pick<App, 'metricsToken'>, request: Request): boolean {
  if (metricsToken === undefined) return false;
  const shown = /^Bearer (.+)$/.exec(request.headers.get('authorization') ?? '')?.[1] ?? '';
  return sameSecret(shown, metricsToken);
}

/** How everything is, in figures, as OpenMetrics 1.0 text: of all customers, for the MSP's own watch. */
export async function figures(app: App): Promise<{ readonly type: string; readonly text: string }> {
  const registry = new Registry<OpenMetricsContentType>();
  registry.setContentType(Registry.OPENMETRICS_CONTENT_TYPE);
  const read = await Promise.all(
    FIGURES.map(({ read: ask }) =>
      app.db.rows<Readonly<Record<string, string | number>>>(ask(app.clock.wall())),
    ),
  );
  FIGURES.forEach(({ name, help, labels }, n) => {
    const gauge = new Gauge({ name, help, labelNames: [...labels], registers: [registry] });
    for (const { value, ...row } of read[n] ?? [])
      if (labels.length === 0) gauge.set(Number(value));
      else gauge.set(Object.fromEntries(labels.map((label) => [label, String(row[label])])), Number(value));
  });
  return { type: registry.contentType, text: await registry.metrics() };
}
