import type { Page } from '../../contract';

/** A page of a list: one more than asked for is read, to know whether there are more. */
export async function paged<Entry>(
  limit: number,
  read: (limit: number) => Promise<readonly Entry[]>,
  cursor: (entry: Entry) => string,
): Promise<Page<Entry>> {
  const found = await read(limit + 1);
  const entries = found.slice(0, limit);
  const last = entries.at(-1);
  return { entries, next: found.length > limit && last ? cursor(last) : null };
}

/** A file to save, as RFC 4180 writes it. */
export const csvResponse = (name: string, body: string): Response =>
  new Response(body, {
    headers: {
      'content-type': 'text/csv; charset=utf-8; header=present',
      'content-disposition': `attachment; filename="${name}"`,
      'cache-control': 'no-store',
    },
  });
