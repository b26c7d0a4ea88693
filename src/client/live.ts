import { QueryClient, useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { listen, type Change } from './stream';

const GATHER_MS = 250;

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
): { value: Value; again: () => void; lost: boolean } {
  const [client] = useState(() => pageClient ?? makeClient());
  const { data, isError, refetch } = useQuery<Value, Error, Value, string[]>(
    {
      queryKey: [question.key],
      queryFn: question.read,
      initialData: initial,
      structuralSharing: false,
    },
    client,
  );
  const [unheard, setUnheard] = useState(false);
  const latest = useRef({ concerns, refetch });
  useEffect(() => {
    latest.current = { concerns, refetch };
  });
  const again = useRef<() => void>(() => undefined);
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    let ended = false;
    let reading = false;
    const look = (): void => {
      timer ??= setTimeout(() => {
        timer = undefined;
        if (!reading) void readNow();
        else look();
      }, GATHER_MS);
    };
    const readNow = async (): Promise<void> => {
      reading = true;
      const { isSuccess } = await latest.current.refetch();
      reading = false;
      if (isSuccess && !ended) setUnheard(false);
    };
    again.current = look;
    const end = listen(events, (change) => {
      if (change.topic === 'lost') setUnheard(true);
      else if (change.topic === 'again' || latest.current.concerns(change)) look();
    });
    return () => {
      ended = true;
      clearTimeout(timer);
      end();
    };
  }, [events]);
  return { value: data as Value, again: () => again.current(), lost: unheard || isError };
}
