import { useEffect, useRef, useState } from 'react';
import { get } from './api';
import { listen, type Change } from './stream';

const GATHER_MS = 250;

/**
 * Keeps what a page shows up to date: begins with what came with the page, and reads it again when a change that
 * concerns it is told. Changes close together are read once.
 */
export function useLive<Value>(
  initial: Value,
  read: string | (() => Promise<Value>),
  events: string,
  concerns: (change: Change) => boolean,
): { value: Value; again: () => void; lost: boolean } {
  const [value, setValue] = useState(initial);
  const [lost, setLost] = useState(false);
  const reader = useRef({ read, concerns });
  useEffect(() => {
    reader.current = { read, concerns };
  });
  const again = useRef<() => void>(() => undefined);
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    let ended = false;
    let turn = 0;
    const look = (): void => {
      timer ??= setTimeout(() => {
        timer = undefined;
        const { read: source } = reader.current;
        const mine = ++turn;
        // An answer that comes after a later question's is old: nobody wants it.
        const old = (): boolean => ended || mine !== turn;
        const found = typeof source === 'string' ? get<Value>(source) : source();
        found.then(
          (now) => {
            if (old()) return;
            setValue(now);
            setLost(false);
          },
          () => old() || setLost(true),
        );
      }, GATHER_MS);
    };
    again.current = look;
    const end = listen(events, (change) => {
      if (change.topic === 'lost') setLost(true);
      else if (change.topic === 'again' || reader.current.concerns(change)) look();
    });
    return () => {
      ended = true;
      clearTimeout(timer);
      end();
    };
  }, [events]);
  return { value, again: () => again.current(), lost };
}
