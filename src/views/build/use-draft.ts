import { useEffect, useRef, useState } from 'react';
import type { WholeTemplate } from '../../contract';
import { ApiProblem, newKey, send, whyOf } from '../../client/api';

const TYPING_MS = 700;

export interface KeptDraft {
  readonly text: string;
  readonly setText: (text: string) => void;
  /** How it stands: kept, being kept, or why it is not. */
  readonly status: 'kept' | 'keeping' | 'same' | { readonly problem: string; readonly isConflict: boolean };
  readonly drop: () => Promise<void>;
}

/**
 * What is typed is kept as the template's draft a moment later, one after the other. Somebody else's draft is not written
 * over: that it has changed is told, and what was typed stays on the page.
 */
export function useDraft({ code, owner, text: published, draft }: WholeTemplate): KeptDraft {
  const [text, setText] = useState(draft?.text ?? published);
  const [status, setStatus] = useState<KeptDraft['status']>(draft ? 'kept' : 'same');
  const kept = useRef({ text: draft?.text ?? published, version: draft?.version });
  const busy = useRef(false);
  const [again, setAgain] = useState(0);
  const stopped = typeof status === 'object' && status.isConflict;
  useEffect(() => {
    if (text === kept.current.text || stopped) return;
    const timer = setTimeout(() => {
      if (busy.current) return;
      busy.current = true;
      setStatus('keeping');
      const before = kept.current.version;
      keep(code, { text, owner }, before)
        .then(
          (version) => {
            kept.current = { text, version };
            setStatus('kept');
          },
          (error: unknown) =>
            setStatus({
              problem: whyOf(error),
              isConflict: error instanceof ApiProblem && error.status === 409,
            }),
        )
        .finally(() => {
          busy.current = false;
          // What was typed meanwhile is kept next.
          setAgain((n) => n + 1);
        });
    }, TYPING_MS);
    return () => clearTimeout(timer);
  }, [text, code, owner, stopped, again]);
  const drop = async (): Promise<void> => {
    await send('DELETE', '/templates/{template}/draft', { template: code }, { key: newKey() });
    location.reload();
  };
  return { text, setText, status, drop };
}

async function keep(
  template: string,
  { text, owner }: { readonly text: string; readonly owner: string },
  before: number | undefined,
): Promise<number> {
  const body = { text, owner, before: before ?? 0 };
  const { version } = await send('PUT', '/templates/{template}/draft', { template }, { body, key: newKey() });
  return version;
}
