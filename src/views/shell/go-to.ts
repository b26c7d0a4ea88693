import { useEffect } from 'react';

const PLACES: Readonly<Record<string, string>> = {
  w: '/',
  c: '/customers',
  b: '/build',
  s: '/serve',
  r: '/runs',
  o: '/ground',
  m: '/money',
  t: '/trail',
};

const PATIENCE_MS = 1_200;

/** `g` and a letter goes to a place of the rail; Ctrl K finds. Not while someone types. */
export function useGoTo(find: () => void): void {
  useEffect(() => {
    let since = 0;
    const onKey = (event: KeyboardEvent): void => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
        event.preventDefault();
        find();
        return;
      }
      if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target)) return;
      if (event.key === 'g') {
        since = event.timeStamp;
        return;
      }
      const place = event.timeStamp - since < PATIENCE_MS ? PLACES[event.key] : undefined;
      since = 0;
      if (place !== undefined) location.assign(place);
    };
    addEventListener('keydown', onKey);
    return () => removeEventListener('keydown', onKey);
  }, [find]);
}

const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));
