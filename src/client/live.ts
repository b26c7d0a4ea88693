import { QueryClient, useQuery, type Query } from '@tanstack/react-query';
import { useEffect, useRef, useState, useSyncExternalStore } from 'react';
import { listen, type Change } from './stream';

const GATHER_MS = 250;
/** What takes long to read is read less often: a sixth of the time at most. */
const REST = 5;
/** After reading failed: nobody tells when it would go well again. */
const PAUSE_MS = 5_000;

const makeClient = (): QueryClient =>
  new QueryClient({
    defaultOptions: {
      // What is shown is read again when a change is told, and at no other time.
      queries: {
        staleTime: Infinity,
        retry: false,
        refetchOnWindowFocus: false,
        refetchOnReconnect: false,
        // Tried also when the browser thinks that it is offline: that it fails is what the page has to say.
        networkMode: 'always',
      },
    },
  });

/** One for the page. On the server each island has its own: what is one person's is never another's. */
const pageClient = typeof window === 'undefined' ? undefined : makeClient();

/** What a page reads, and the name under which what was read is kept. */
export interface Question<Value> {
  readonly key: string;
  readonly read: () => Promise<Value>;
}

/**
 * Keeps what a page shows up to date: begins with what came with the page, and reads it again when a change that
 * concerns it is told. Changes close together are read once; what changes while one reads is read after it.
 */
export function useLive<Value>(
  question: Question<Value>,
  initial: Value,
  events: string,
  concerns: (change: Change) => boolean,
): { value: Value; again: () => void } {
  const [client] = useState(() => pageClient ?? makeClient());
  const { data, refetch } = useQuery<Value, Error, Value, string[]>(
    {
      queryKey: [question.key],
      queryFn: question.read,
      initialData: initial,
      structuralSharing: false,
    },
    client,
  );
  const latest = useRef({ concerns, refetch });
  useEffect(() => {
    latest.current = { concerns, refetch };
  });
  const again = useRef<() => void>(() => undefined);
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    let ended = false;
    let reading = false;
    let tookMs = 0;
    const look = (after: number): void => {
      timer ??= setTimeout(() => {
        timer = undefined;
        if (!reading) void readNow();
        else look(GATHER_MS);
      }, after);
    };
    const readNow = async (): Promise<void> => {
      reading = true;
      const began = performance.now();
      const { isSuccess } = await latest.current.refetch();
      reading = false;
      tookMs = performance.now() - began;
      if (ended) return;
      if (!isSuccess) look(PAUSE_MS);
    };
    again.current = () => look(GATHER_MS);
    const end = listen(events, (change) => {
      if (change.topic === 'lost') return;
      if (change.topic === 'again' || latest.current.concerns(change))
        look(Math.max(GATHER_MS, REST * tookMs));
    });
    return () => {
      ended = true;
      clearTimeout(timer);
      end();
    };
  }, [events]);
  return { value: data as Value, again: () => again.current() };
}

const isUnread = (query: Query): boolean => query.isActive() && query.state.status === 'error';

/** Whether anything that the page shows may be old: its news cannot be heard, or what they concern not be read. */
export function useMayBeOld(events: string): boolean {
  const [heard, setHeard] = useState(true);
  useEffect(() => listen(events, (change) => setHeard(change.topic !== 'lost')), [events]);
  const unread = useSyncExternalStore(
    (tell) => pageClient?.getQueryCache().subscribe(tell) ?? (() => undefined),
    () => pageClient?.getQueryCache().getAll().some(isUnread) ?? false,
    () => false,
  );
  return !heard || unread;
}
