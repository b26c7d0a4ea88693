// What each page's scripts weigh, as they were built.
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';

/**
 * What each island of a page brings, with all that it imports; each file once, compressed as a server would.
 * @returns for each: its name, bytes, whether a chart is in it, and the bytes of its worker, which the page does not wait for
 */
export function scriptsOfPages() {
  const folder = 'dist/client/_astro';
  const files = readdirSync(folder).filter((name) => name.endsWith('.js'));
  const size = new Map(files.map((name) => [name, gzipSync(readFileSync(join(folder, name))).length]));
  const imports = new Map(
    files.map((name) => {
      const text = readFileSync(join(folder, name), 'utf8');
      return [
        name,
        // Static imports only: what is fetched later, when it is first needed, is not sent with the page.
        [...text.matchAll(/(?:from|import)\s*["']\.\/([\w.-]+\.js)["']/g)]
          .map(([, file]) => file)
          .filter((file) => size.has(file)),
      ];
    }),
  );
  const withAll = (name, seen = new Set()) => {
    if (seen.has(name)) return seen;
    seen.add(name);
    for (const next of imports.get(name) ?? []) withAll(next, seen);
    return seen;
  };
  const readsWorker = (page, name) =>
    name.includes('.worker-') && readFileSync(join(folder, page), 'utf8').includes(name);
  const part = (prefix) => files.find((name) => new RegExp(`^${prefix}\\.[\\w-]+\\.js$`).test(name));
  const shared = ['client', 'Bar'].map(part).filter(Boolean);
  const views = [
    'Watch',
    'Customers',
    'Customer',
    'People',
    'Provision',
    'Run',
    'Runs',
    'Environment',
    'Retire',
    'Proof',
    'Costs',
    'MoneyAcross',
    'Serve',
    'Ground',
    'Trail',
    'SignIn',
  ];
  return views.flatMap((view) => {
    const own = part(view);
    if (!own) return [];
    const all = new Set([...shared, own].flatMap((name) => [...withAll(name)]));
    const worker = files.find((name) => readsWorker(own, name));
    return [
      [
        view,
        [...all].reduce((sum, name) => sum + size.get(name), 0),
        view === 'Costs',
        worker === undefined ? 0 : size.get(worker),
      ],
    ];
  });
}
