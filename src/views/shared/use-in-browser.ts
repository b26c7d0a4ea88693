import { useSyncExternalStore } from 'react';

/** Whether this runs in a browser: an editor has nothing that could be drawn beforehand. */
export const useInBrowser = (): boolean =>
  useSyncExternalStore(
    () => () => undefined,
    () => true,
    () => false,
  );
