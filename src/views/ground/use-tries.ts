import { useEffect, useState } from 'react';
import type { Try } from '../../contract';
import { send, whyOf } from '../../client/api';

/** A connection as far as it is written. */
export interface Written {
  readonly url: string;
  readonly account: string;
  readonly secret: string;
}

export interface Trying {
  /** How the tries went, of what is written now; empty as long as there is no address. */
  readonly tries: readonly Try[];
  /** What is under way: the quick tries, or the making of something small. */
  readonly at: 'rest' | 'quick' | 'making';
  /** Why it could not even be tried. */
  readonly problem: string | undefined;
}

const REST: Trying = { tries: [], at: 'rest', problem: undefined };
const TYPING_MS = 700;

const isAddress = (url: string): boolean => /^https?:\/\/[^/\s]+/.test(url) && URL.canParse(url);

/**
 * Tries what is written for real, as one types: the quick tries once typing rests, and when they all work, making something
 * small. An answer to what was written before is not shown.
 */
export function useTries({ url, account, secret }: Written): Trying {
  const [state, setState] = useState<Trying>(REST);
  useEffect(() => {
    let ended = false;
    const ask = async (making: boolean): Promise<readonly Try[]> =>
      (await send('POST', '/providers/tries', {}, { body: { url, account, secret, making } })).tries;
    const tryAll = async (): Promise<void> => {
      setState((before) => ({ ...before, at: 'quick', problem: undefined }));
      try {
        const tries = await ask(false);
        if (ended) return;
        const goesOn = tries.every((one) => one.outcome !== 'fails') && account !== '' && secret !== '';
        setState({ tries, at: goesOn ? 'making' : 'rest', problem: undefined });
        if (!goesOn) return;
        const whole = await ask(true);
        if (!ended) setState({ tries: whole, at: 'rest', problem: undefined });
      } catch (error) {
        if (!ended) setState({ ...REST, problem: whyOf(error) });
      }
    };
    const timer = setTimeout(() => (isAddress(url) ? void tryAll() : setState(REST)), TYPING_MS);
    return () => {
      ended = true;
      clearTimeout(timer);
    };
  }, [url, account, secret]);
  return state;
}
