import { useEffect, useRef, useState } from 'react';
import type { WholeTemplate } from '../../contract';
import { ApiProblem, newKey, send, whyOf } from '../../client/api';

const TYPING_MS = 700;

export interface KeptDraft {
  readonly text: string;
  readonly setText: (text: string) => void;
  /** How it stands: as published, kept, being kept, or why it is not. */
  readonly status: 'same' | 'kept' | 'keeping' | { readonly problem: string };
  readonly drop: () => Promise<void>;
}

/**
 * What is typed is kept as the template's draft a moment later, one after the other. Somebody else's draft is not written
 * over: that it has changed is told, and what was typed stays on the page.
 */
export function useDraft({ code, owner, text: published, draft, draftVersion }: WholeTemplate): KeptDraft {
  const [text, setText] = useState(draft?.text ?? published);
  const [kept, setKept] = useState({ text, version: draftVersion, isDraft: draft !== null });
  const [failed, setFailed] = useState<{ readonly problem: string; readonly isConflict: boolean }>();
  const isBusy = useRef(false);
  const isOpen = text !== kept.text;
  const isStopped = failed?.isConflict === true;
  useEffect(() => {
    if (!isOpen || isStopped) return;
    const timer = setTimeout(() => {
      // What is typed while one is on its way is kept once that has come.
      if (isBusy.current) return;
      isBusy.current = true;
      keep(code, { text, owner, before: kept.version })
        .then(
          (version) => {
            setFailed(undefined);
            setKept({ text, version, isDraft: true });
          },
          (error: unknown) =>
            setFailed({
              problem: whyOf(error),
              isConflict: error instanceof ApiProblem && error.status === 409,
            }),
        )
        .finally(() => {
          isBusy.current = false;
        });
    }, TYPING_MS);
    return () => clearTimeout(timer);
  }, [text, kept, failed, isOpen, isStopped, code, owner]);
  useEffect(() => {
    if (!isOpen) return;
    const ask = (event: BeforeUnloadEvent): void => event.preventDefault();
    addEventListener('beforeunload', ask);
    return () => removeEventListener('beforeunload', ask);
  }, [isOpen]);
  const drop = async (): Promise<void> => {
    await send('DELETE', '/templates/{template}/draft', { template: code }, { key: newKey() });
    location.assign(published === '' ? '/build' : `/build/templates/${code}`);
  };
  const status = failed ?? (isOpen ? 'keeping' : kept.isDraft ? 'kept' : 'same');
  return { text, setText, status, drop };
}

async function keep(
  template: string,
  body: { readonly text: string; readonly owner: string; readonly before: number },
): Promise<number> {
  const { version } = await send('PUT', '/templates/{template}/draft', { template }, { body, key: newKey() });
  return version;
}
