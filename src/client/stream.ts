/**
 * A hint that something changed. Two topics are the stream's own: `again`, what changed is not known, look at everything;
 * `lost`, nothing can be heard at the moment.
 */
export interface Change {
  readonly topic: string;
  readonly id: string;
}

type EventListener = (change: Change) => void;

const AGAIN: Change = { topic: 'again', id: '' };
const LOST: Change = { topic: 'lost', id: '' };

/** What this page listens to, by path; whoever listens to the same path shares it. */
const heard = new Map<string, { readonly listeners: Set<EventListener>; readonly end: () => void }>();

/** Hears of changes on a path of live events. @returns a function that ends it */
export function listen(path: string, listener: EventListener): () => void {
  const listeners = heard.get(path)?.listeners ?? new Set();
  listeners.add(listener);
  if (!heard.has(path)) {
    const tell: EventListener = (change) => listeners.forEach((one) => one(change));
    heard.set(path, { listeners, end: share(path, tell) });
  }
  // Who comes to life late on a page was not told what changed since the page was made.
  queueMicrotask(() => {
    if (listeners.has(listener)) listener(AGAIN);
  });
  return () => {
    listeners.delete(listener);
    if (listeners.size > 0) return;
    heard.get(path)?.end();
    heard.delete(path);
  };
}

/**
 * One stream for all tabs of the browser, which has few connections to give: the tab that holds the path's lock opens it
 * and tells the others; when it closes, the next one takes over.
 */
function share(path: string, tell: EventListener): () => void {
  // Outside a secure context a browser has no locks: then each tab has its own.
  if (!('locks' in navigator)) return open(path, tell);
  const name = `laager ${path}`;
  const tabs = new BroadcastChannel(name);
  tabs.onmessage = (event: MessageEvent<Change>) => tell(event.data);
  const leaving = new AbortController();
  let release = (): void => undefined;
  const held = (): Promise<void> =>
    new Promise((resolve) => {
      const close = open(path, (change) => {
        tabs.postMessage(change);
        tell(change);
      });
      release = () => {
        close();
        resolve();
      };
    });
  navigator.locks.request(name, { signal: leaving.signal }, held).catch(() => undefined);
  return () => {
    leaving.abort();
    release();
    tabs.close();
  };
}

/** Whether there is no such stream for whoever asks: its customer is out of their reach. */
async function isGone(path: string): Promise<boolean> {
  const asking = new AbortController();
  try {
    return (await fetch(`/api/v1${path}`, { signal: asking.signal })).status === 404;
  } catch {
    return false;
  } finally {
    asking.abort();
  }
}

const PAUSE_MS = 5_000;

/** Opens the stream, and again and again when it is refused: reading tells why, and someone may sign in meanwhile. */
function open(path: string, tell: EventListener): () => void {
  let source: EventSource;
  let pause: ReturnType<typeof setTimeout> | undefined;
  const begin = (): void => {
    source = new EventSource(`/api/v1${path}`);
    source.addEventListener('change', (event: MessageEvent<string>) =>
      tell(JSON.parse(event.data) as Change),
    );
    // Who one is or whom one reaches is otherwise now: what stands here may be nobody's to see.
    source.addEventListener('over', () => location.reload());
    // After a break, what happened meanwhile is not known.
    source.addEventListener('ready', () => tell(AGAIN));
    source.addEventListener('error', () => {
      // A stream that broke comes again by itself; one that was refused does not, and reading tells why.
      const isRefused = source.readyState === EventSource.CLOSED;
      if (isRefused) {
        tell(AGAIN);
        // Taken out of one's reach before it was heard: what stands here is not one's to see any more.
        void isGone(path).then((gone) => gone && location.reload());
      }
      tell(LOST);
      if (isRefused) pause = setTimeout(begin, PAUSE_MS);
    });
  };
  begin();
  return () => {
    clearTimeout(pause);
    source.close();
  };
}
