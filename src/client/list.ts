import { useEffect, useRef, useState } from 'react';
import type { Page } from '../contract';
import { addressOf, call } from './api';
import { useLive } from './live';
import type { Change } from './stream';

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
 * @param path where the list is
 */
export function useList<Entry>(
  path: string,
  initial: Page<Entry>,
  events: string,
  concerns: (change: Change) => boolean,
  /** What is asked of the list besides, by the names of its query. */
  filter: Readonly<Record<string, string>> = {},
  /** What `initial` was found by. */
  foundBy = '',
): List<Entry> {
  const [find, setFind] = useState(foundBy);
  const [typed, setTyped] = useState(foundBy);
  const asked = JSON.stringify(filter);
  const wanted = useRef({ path, find: foundBy, asked, length: initial.entries.length });
  const { value, again } = useLive(
    { key: `list ${path}`, read: () => readUpTo<Entry>(wanted.current) },
    initial,
    events,
    concerns,
  );
  useEffect(() => {
    const timer = setTimeout(() => setFind(typed.trim()), TYPING_MS);
    return () => clearTimeout(timer);
  }, [typed]);
  useEffect(() => {
    const { current } = wanted;
    if (current.path === path && current.find === find && current.asked === asked) return;
    wanted.current = { path, find, asked, length: LIST_PAGE };
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
  /** As JSON. */
  readonly asked: string;
  readonly length: number;
}): Promise<Page<Entry>> {
  const entries: Entry[] = [];
  let next: string | null = '';
  while (next !== null && entries.length < wanted.length) {
    const limit = Math.min(MOST_AT_ONCE, wanted.length - entries.length);
    const page: Page<Entry> = await call(
      'GET',
      addressOf(
        wanted.path,
        {},
        {
          ...(JSON.parse(wanted.asked) as Readonly<Record<string, string>>),
          limit,
          find: wanted.find,
          after: next,
        },
      ),
    );
    entries.push(...page.entries);
    next = page.next;
  }
  return { entries, next };
}
