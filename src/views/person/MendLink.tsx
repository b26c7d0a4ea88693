import type { Item, PersonDetail, WhyLinkTold } from '../../contract';
import { ButtonLink } from '../../ui/Button';

interface Props {
  readonly code: string;
  readonly item: Item;
  readonly person: Pick<PersonDetail, 'id'>;
  readonly mend: WhyLinkTold['mend'];
}

/** The place where the missing link is mended, with what is known already filled in. */
export function MendLink({ code, item, person, mend }: Props) {
  const at = `/customers/${code}`;
  const place = new URLSearchParams({ environment: item.environmentId, add: person.id });
  switch (mend) {
    case null:
      return null;
    case 'grant':
      return link(`${at}/items?${place}`, 'Grant it to them');
    case 'scope':
      return link(`${at}/directory`, 'Change what is read');
    case 'directory':
      return link(`${at}/directory`, 'Look at the directory');
    case 'licences':
    case 'hosts':
    case 'assign':
      return link(
        `${at}/environments/${item.environmentId}`,
        mend === 'assign' ? 'Assign a desktop' : mend === 'hosts' ? 'See the hosts' : 'See the pool',
      );
  }
}

const link = (href: string, says: string) => (
  <ButtonLink kind="quiet" href={href}>
    {says}
  </ButtonLink>
);
