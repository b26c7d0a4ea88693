import { useSyncExternalStore } from 'react';

function subscribe(changed: () => void): () => void {
  const watcher = new MutationObserver(changed);
  watcher.observe(document.documentElement, { attributeFilter: ['data-theme'] });
  return () => watcher.disconnect();
}

/** Whether the page is in the night theme: it stands on the document before any script of ours runs. */
export const useNight = (): boolean =>
  useSyncExternalStore(
    subscribe,
    () => document.documentElement.dataset.theme === 'night',
    () => false,
  );
