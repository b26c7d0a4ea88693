import type { Outlook } from '../../contract';
import { useEffect, useState } from 'react';
import { send } from '../../client/api';
import type { Moves } from './moves';

/** What the moves would change, person by person; undefined: none are chosen, or it is not known yet. */
export function useOutlook(code: string, environment: string | undefined, moves: Moves): Outlook | undefined {
  const asked =
    environment === undefined || moves.add.length + moves.take.length === 0
      ? undefined
      : JSON.stringify({ environment, moves });
  const [found, setFound] = useState<{ readonly of: string; readonly outlook: Outlook }>();
  useEffect(() => {
    if (asked === undefined) return undefined;
    let ended = false;
    const { environment: at, moves: body } = JSON.parse(asked) as {
      readonly environment: string;
      readonly moves: Moves;
    };
    send(
      'POST',
      '/customers/{customer}/environments/{environment}/grants/outlook',
      { customer: code, environment: at },
      { body },
    ).then(
      (outlook) => {
        if (!ended) setFound({ of: asked, outlook });
      },
      () => undefined,
    );
    return () => {
      ended = true;
    };
  }, [asked, code]);
  return found && found.of === asked ? found.outlook : undefined;
}
