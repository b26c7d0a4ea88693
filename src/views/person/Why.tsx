import type { Item, PersonDetail, WhyLinkTold } from '../../contract';
import { useState } from 'react';
import { Check, CircleHelp, X } from 'lucide-react';
import { get, whyOf } from '../../client/api';
import { Button } from '../../ui/Button';
import { MendLink } from './MendLink';
import styles from './PersonPage.module.css';

const TITLE: Readonly<Record<WhyLinkTold['link'], string>> = {
  person: 'Person',
  grant: 'Grant',
  licence: 'Licence',
  host: 'Host',
};

interface Props {
  readonly code: string;
  readonly person: PersonDetail;
  readonly item: Item;
  readonly mayChange: boolean;
}

/** Why not? Link by link from the person to a host, and where the missing one is mended. */
export function Why({ code, person, item, mayChange }: Props) {
  const [links, setLinks] = useState<readonly WhyLinkTold[]>();
  const [problem, setProblem] = useState<string>();
  const ask = async (): Promise<void> => {
    setProblem(undefined);
    try {
      const { links: told } = await get(
        '/customers/{customer}/people/{person}/why',
        { customer: code, person: person.id },
        { environment: item.environmentId, pool: item.pool, item: item.name },
      );
      setLinks(told);
    } catch (error) {
      setProblem(whyOf(error));
    }
  };
  const first = links?.find(({ holds }) => !holds);
  if (!links)
    return (
      <>
        <Button kind="quiet" icon={<CircleHelp size={15} aria-hidden="true" />} onPress={() => void ask()}>
          Why not?
        </Button>
        {problem !== undefined && <p role="alert">{problem}</p>}
      </>
    );
  return (
    <ol className={styles.links} aria-label={`Why not ${item.name}`}>
      {links.map((one) => (
        <li key={one.link} data-holds={one.holds}>
          {one.holds ? <Check size={15} aria-label="holds" /> : <X size={15} aria-label="missing" />}
          <b>{TITLE[one.link]}</b>
          <span>{one.says}</span>
          {one === first && mayChange && <MendLink code={code} item={item} person={person} mend={one.mend} />}
        </li>
      ))}
    </ol>
  );
}
