import { useEffect } from 'react';
import { RAIL } from './rail';

const PLACES: ReadonlyMap<string, string> = new Map(RAIL.map(({ key, href }) => [key, href]));

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
      const place = event.timeStamp - since < PATIENCE_MS ? PLACES.get(event.key) : undefined;
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
