import { Plus } from 'lucide-react';
import type { MadeImage } from '../../contract';
import { OWN_CODE } from '../../contract/own-code';
import { get } from '../../client/api';
import { useLive } from '../../client/live';
import { ButtonLink } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { Mark, type MarkLook } from '../../ui/Mark';
import { Empty, Panel } from '../../ui/Panel';
import { isBuilding, wordOf } from './line';
import { Outlook } from './Outlook';
import styles from './Images.module.css';

interface Props {
  readonly initial: { readonly images: readonly MadeImage[] };
  /** Marks of customers, for images of their own. */
  readonly marks: Readonly<Record<string, MarkLook>>;
  readonly now: number;
  readonly mayChange: boolean;
}

/** Which images are made here, what is current, and who stands on what? */
export function Images({ initial, marks, now, mayChange }: Props) {
  const { value } = useLive({ key: 'images', read: () => get('/images', {}) }, initial, '/events', (change) =>
    ['environment', 'run'].includes(change.topic),
  );
  const begin = (
    <ButtonLink kind="main" href="/build/images/new" icon={<Plus size={16} aria-hidden="true" />}>
      Begin an image
    </ButtonLink>
  );
  return (
    <div className={styles.page}>
      <h1 className="sr">Images</h1>
      {value.images.length === 0 ? (
        <Panel>
          <Empty says="No image is made here yet: hosts are made of what the providers offer, and what is missing is put on each by hand.">
            {mayChange && begin}
          </Empty>
        </Panel>
      ) : (
        mayChange && <div className={styles.top}>{begin}</div>
      )}
      {value.images.map((image) => (
        <One
          key={image.id}
          image={image}
          mark={image.owner === OWN_CODE ? undefined : marks[image.owner]}
          now={now}
        />
      ))}
    </div>
  );
}

function One({
  image,
  mark,
  now,
}: {
  readonly image: MadeImage;
  readonly mark: MarkLook | undefined;
  readonly now: number;
}) {
  const building = image.versions.find(isBuilding);
  const word = building && wordOf(image, building);
  return (
    <Panel
      title={image.name}
      side={
        <span className={styles.side}>
          {mark && (
            <span className={styles.whose}>
              <Mark mark={mark} size={26} /> {image.owner}’s own
            </span>
          )}
          {building && (
            <Chip tone={word === 'stopped' ? 'bad' : 'busy'}>
              version {building.number} {word === 'stopped' ? 'has stopped' : 'is being built'}
            </Chip>
          )}
          <ButtonLink href={`/build/images/${image.code}`}>Open</ButtonLink>
        </span>
      }
    >
      <Outlook image={image} now={now} />
    </Panel>
  );
}
