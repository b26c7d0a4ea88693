import type { FingerprintedProposal } from '../../contract';
import { useEffect, useState } from 'react';
import { ApiProblem, call, newKey, whyOf } from '../../client/api';

/** What is asked for: a change's input, and what of its policy is otherwise. */
export interface Asked {
  readonly input: unknown;
  readonly policy?: object;
}

interface State {
  /** What was asked when this came of it, as JSON. */
  readonly of: string;
  readonly found: FingerprintedProposal | undefined;
  /** What is wrong, and beside which field of the input. */
  readonly problem: string | undefined;
  readonly fields: Readonly<Record<string, string>>;
}

const NOTHING: State = { of: '', found: undefined, problem: undefined, fields: {} };
const TYPING_MS = 250;

/** Where a change is proposed and begun. */
export const changePath = (code: string, kind: string, environment: string | undefined): string =>
  environment === undefined
    ? `/customers/${code}/changes/${kind}`
    : `/customers/${code}/environments/${environment}/changes/${kind}`;

/**
 * The server's proposal for what is asked, asked anew as that changes; beginning it, and having it held. What is begun is what was
 * seen, by its fingerprint: where that has changed meanwhile, the new proposal is shown instead.
 */
export function useProposal(
  path: string,
  asked: Asked,
): Omit<State, 'of'> & {
  /** Whether it is being begun, or what is asked now was not proposed yet: nothing else is begun than what is seen. */
  readonly busy: boolean;
  readonly begin: (more: { readonly reason: string; readonly code?: string }) => Promise<string | undefined>;
  /** Has it held. @returns the hold's id */
  readonly hold: (more: { readonly reason: string; readonly minutes: number }) => Promise<string | undefined>;
} {
  const [state, setState] = useState<State>(NOTHING);
  const [busy, setBusy] = useState(false);
  const [key, setKey] = useState(newKey);
  const body = JSON.stringify(asked);
  useEffect(() => {
    let ended = false;
    const timer = setTimeout(() => {
      call<FingerprintedProposal>('POST', `${path}/proposal`, { body: JSON.parse(body) as unknown }).then(
        (found) =>
          !ended && setState({ of: body, found, problem: undefined, fields: found.proposal.refused ?? {} }),
        (error: unknown) => !ended && setState({ of: body, ...refusedBy(error) }),
      );
    }, TYPING_MS);
    return () => {
      ended = true;
      clearTimeout(timer);
    };
  }, [path, body]);
  const sent = async <Answer>(to: string, more: object): Promise<Answer | undefined> => {
    if (!state.found) return undefined;
    setBusy(true);
    try {
      return await call<Answer>('POST', to, {
        body: { ...asked, fingerprint: state.found.fingerprint, ...more },
        key,
      });
    } catch (error) {
      setBusy(false);
      // What was refused did nothing: another try is another request.
      if (error instanceof ApiProblem && error.status > 0 && error.status < 500) setKey(newKey());
      if (error instanceof ApiProblem && error.code === 'changed')
        setState({
          of: body,
          found: error.body as unknown as FingerprintedProposal,
          problem: whyOf(error),
          fields: {},
        });
      else setState((before) => ({ ...before, ...refusedBy(error), found: before.found }));
      return undefined;
    }
  };
  const begin = async (more: { reason: string; code?: string }): Promise<string | undefined> =>
    (await sent<{ run: string }>(path, more))?.run;
  const hold = async (more: { reason: string; minutes: number }): Promise<string | undefined> =>
    (await sent<{ hold: string }>(`${path}/hold`, more))?.hold;
  const { of, ...shown } = state;
  return { ...shown, busy: busy || of !== body, begin, hold };
}

function refusedBy(error: unknown): Omit<State, 'of'> {
  const fields = error instanceof ApiProblem ? error.fields : {};
  return {
    found: undefined,
    problem: whyOf(error),
    fields: Object.fromEntries(
      Object.entries(fields).map(([name, why]) => [name.replace(/^input\./, ''), why]),
    ),
  };
}
