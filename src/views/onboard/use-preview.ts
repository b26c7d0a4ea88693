import { useEffect, useState } from 'react';
import type { Preview } from '../../contract';
import { send, whyOf } from '../../client/api';
import type { CustomerFields } from './fields';

const TYPING_MS = 250;

/** What would come of what is filled in, asked once typing rests. */
export function usePreview(
  fields: CustomerFields,
  known: string,
): { preview: Preview | undefined; problem: string | undefined } {
  const [preview, setPreview] = useState<Preview>();
  const [problem, setProblem] = useState<string>();
  const { code, name, plan, site, zone, currency, card, naming, country, region, blockPrefix } = fields;
  const asked = JSON.stringify({
    code: code.trim().slice(0, 40),
    name: name.slice(0, 200),
    plan,
    site,
    zone: zone.trim(),
    currency: currency.trim(),
    card,
    naming: naming.trim(),
    country: country.trim().toUpperCase(),
    region: region.trim().toUpperCase(),
    blockPrefix: Number(blockPrefix) || 20,
    known,
  });
  useEffect(() => {
    let ended = false;
    const timer = setTimeout(() => {
      send('POST', '/customers/proposal', {}, { body: JSON.parse(asked) as never }).then(
        (answer) => {
          if (ended) return;
          setPreview(answer);
          setProblem(undefined);
        },
        (error: unknown) => {
          if (!ended) setProblem(whyOf(error));
        },
      );
    }, TYPING_MS);
    return () => {
      ended = true;
      clearTimeout(timer);
    };
  }, [asked]);
  return { preview, problem };
}
