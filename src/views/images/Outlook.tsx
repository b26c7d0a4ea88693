import type { MadeImage } from '../../contract';
import { count, writeMoney } from '../../client/format';
import { Figure, Figures } from '../../ui/Panel';
import { hostsOf } from './line';
import { Line } from './Line';
import styles from './Images.module.css';

interface Props {
  readonly image: MadeImage;
  readonly now: number;
  readonly chosen?: number | undefined;
  readonly onChoose?: (number: number) => void;
}

/** An image's line, and what it comes to: what is current, who stands on it, what it stores where, for how much. */
export function Outlook({ image, ...line }: Props) {
  const current = image.versions.find((one) => one.state === 'current');
  const hosts = image.versions.reduce((all, one) => all + hostsOf(one), 0);
  return (
    <div className={styles.one}>
      {image.versions.length > 0 ? (
        <Line image={image} {...line} />
      ) : (
        <p className={styles.none}>No version was built yet. The recipe is what the first one is built by.</p>
      )}
      <Figures>
        <Figure value={current ? `${image.code}@${current.number}` : 'none'} label="current" />
        <Figure value={hosts} label={hosts === 1 ? 'host on it' : 'hosts on it'} />
        {image.stored.map((one) => (
          <Figure
            key={one.site}
            value={`${one.gib} GiB`}
            label={`at ${one.name}`}
            note={one.monthly ? `${writeMoney(one.monthly)} a month` : 'no price told'}
          />
        ))}
      </Figures>
      <p className={styles.says}>
        {image.says === '' ? '' : `${image.says}. `}
        From {image.from}
        {image.licences.length > 0 &&
          `; ${count(image.licences.length, 'licence', 'licences')} a person: ${image.licences.join(', ')}`}
        .
      </p>
    </div>
  );
}
