import { useEffect, useState } from 'react';
import type { FoundSite, Try } from '../../contract';
import { send, whyOf } from '../../client/api';

/** A connection as far as it is written. */
export interface Written {
  readonly code: string;
  readonly url: string;
  readonly account: string;
  readonly secret: string;
}

export interface Trying {
  /** How the tries went, of what is written now; empty as long as there is no address. */
  readonly tries: readonly Try[];
  /** The sites that would come with it. */
  readonly sites: readonly FoundSite[];
  /** What is under way: the quick tries, or the making of something small. */
  readonly at: 'rest' | 'quick' | 'making';
  /** Why it could not even be tried. */
  readonly problem: string | undefined;
}

const REST: Trying = { tries: [], sites: [], at: 'rest', problem: undefined };
const TYPING_MS = 700;

const isAddress = (url: string): boolean => /^https?:\/\/[^/\s]+/.test(url) && URL.canParse(url);

/**
 * Tries what is written for real, as one types: the quick tries once typing rests, and when they all work, making something
 * small. An answer to what was written before is not shown.
 */
export function useTries({ code, url, account, secret }: Written): Trying {
  const [state, setState] = useState<Trying>(REST);
  useEffect(() => {
    let ended = false;
    const ask = (making: boolean) =>
      send('POST', '/providers/tries', {}, { body: { code, url, account, secret, making } });
    const tryAll = async (): Promise<void> => {
      setState((before) => ({ ...before, at: 'quick', problem: undefined }));
      try {
        const quick = await ask(false);
        if (ended) return;
        const goesOn = quick.tries.every((one) => one.outcome !== 'fails') && account !== '' && secret !== '';
        setState({ ...quick, at: goesOn ? 'making' : 'rest', problem: undefined });
        if (!goesOn) return;
        const whole = await ask(true);
        if (!ended) setState({ ...whole, at: 'rest', problem: undefined });
      } catch (error) {
        if (!ended) setState({ ...REST, problem: whyOf(error) });
      }
    };
    const timer = setTimeout(() => (isAddress(url) ? void tryAll() : setState(REST)), TYPING_MS);
    return () => {
      ended = true;
      clearTimeout(timer);
    };
  }, [code, url, account, secret]);
  return state;
}
