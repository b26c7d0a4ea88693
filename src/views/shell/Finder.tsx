import type { Found } from '../../contract';
import { useEffect, useRef, useState } from 'react';
import { get } from '../../client/api';
import styles from './Finder.module.css';

const WAIT_MS = 120;

/** Finds customers, environments, hosts and people; arrows choose, Enter goes, Escape closes. */
export function Finder({ onClose }: { readonly onClose: () => void }) {
  const box = useRef<HTMLDialogElement>(null);
  const [text, setText] = useState('');
  const [found, setFound] = useState<readonly Found[]>([]);
  const [at, setAt] = useState(0);
  useEffect(() => box.current?.showModal(), []);
  useEffect(() => {
    let ended = false;
    const timer = setTimeout(() => {
      if (text.trim() === '') {
        setFound([]);
        return;
      }
      get('/search', {}, { text }).then(
        (answer) => {
          if (ended) return;
          setFound(answer.found);
          setAt(0);
        },
        () => undefined,
      );
    }, WAIT_MS);
    return () => {
      ended = true;
      clearTimeout(timer);
    };
  }, [text]);
  const onKey = (event: React.KeyboardEvent): void => {
    const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
    if (step !== 0) {
      event.preventDefault();
      setAt((now) => Math.max(0, Math.min(found.length - 1, now + step)));
    }
    // A search field would only empty itself.
    if (event.key === 'Escape') box.current?.close();
    const chosen = found[at];
    if (event.key === 'Enter' && chosen) location.assign(chosen.href);
  };
  return (
    <dialog ref={box} className={styles.box} onClose={onClose} aria-label="Find anything">
      <input
        autoFocus
        type="search"
        role="combobox"
        aria-expanded={found.length > 0}
        aria-controls="found"
        aria-activedescendant={found[at] ? `found-${at}` : undefined}
        placeholder="A customer, an environment, a host, a person"
        aria-label="Find"
        value={text}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={onKey}
      />
      <ul id="found" role="listbox" aria-label="Found">
        {found.map((one, index) => (
          <li key={one.href + one.name} id={`found-${index}`} role="option" aria-selected={index === at}>
            <a href={one.href} tabIndex={-1}>
              <b>{one.name}</b>
              <span>{one.says}</span>
              <small>
                {one.kind} · {one.customer}
              </small>
            </a>
          </li>
        ))}
      </ul>
      {text !== '' && found.length === 0 && <p>Nothing found for “{text}”.</p>}
    </dialog>
  );
}
