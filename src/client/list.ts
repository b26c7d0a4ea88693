import { useEffect, useRef, useState } from 'react';
import { get } from './api';
import { useLive } from './live';
import type { Change } from './stream';

/** A page of a list as the API answers it. */
export interface ListPage<Entry> {
  readonly entries: readonly Entry[];
  readonly next: string | null;
}

/** So many are asked for at a time. */
const LIST_PAGE = 200;
const MOST_AT_ONCE = 1_000;
const TYPING_MS = 200;

/** A list as far as it has been read. */
export interface List<Entry> {
  readonly entries: readonly Entry[];
  /** Whether this is all of it. */
  readonly whole: boolean;
  readonly find: string;
  readonly setFind: (text: string) => void;
  /** Reads on. */
  readonly more: () => void;
}

/**
 * A long list: the server finds, and hands it over page by page; what is shown is read again when something that
 * concerns it changes.
 * @param path of the list, with its other query parameters if it has any
 */
export function useList<Entry>(
  path: string,
  initial: ListPage<Entry>,
  events: string,
  concerns: (change: Change) => boolean,
): List<Entry> {
  const [find, setFind] = useState('');
  const [typed, setTyped] = useState('');
  const wanted = useRef({ path, find: '', length: initial.entries.length });
  const { value, again } = useLive(initial, () => readUpTo<Entry>(wanted.current), events, concerns);
  useEffect(() => {
    const timer = setTimeout(() => setFind(typed.trim()), TYPING_MS);
    return () => clearTimeout(timer);
  }, [typed]);
  useEffect(() => {
    if (wanted.current.path === path && wanted.current.find === find) return;
    wanted.current = { path, find, length: LIST_PAGE };
    again();
  });
  const more = (): void => {
    wanted.current = { ...wanted.current, length: value.entries.length + LIST_PAGE };
    again();
  };
  return {
    entries: value.entries,
    whole: value.next === null,
    find: typed,
    setFind: setTyped,
    more,
  };
}

async function readUpTo<Entry>(wanted: {
  readonly path: string;
  readonly find: string;
  readonly length: number;
}): Promise<ListPage<Entry>> {
  const entries: Entry[] = [];
  let next: string | null = '';
  while (next !== null && entries.length < wanted.length) {
    const limit = Math.min(MOST_AT_ONCE, wanted.length - entries.length);
    const page: ListPage<Entry> = await get(
      withQuery(wanted.path, { limit: String(limit), find: wanted.find, after: next }),
    );
    entries.push(...page.entries);
    next = page.next;
  }
  return { entries, next };
}

/** A path with those query parameters that say something. */
export function withQuery(path: string, parameters: Readonly<Record<string, string>>): string {
  const query = Object.entries(parameters)
    .filter(([, value]) => value !== '')
    .map(([name, value]) => `${name}=${encodeURIComponent(value)}`)
    .join('&');
  return query === '' ? path : `${path}${path.includes('?') ? '&' : '?'}${query}`;
}
