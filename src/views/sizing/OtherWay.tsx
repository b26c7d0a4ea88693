import { useState } from 'react';
import type { Sizing } from '../../contract';
import { writeSize } from '../../core/machines';
import { carriedBy, type WorkGroup } from '../../core/sizing';
import { count } from '../../client/format';
import { SelectField, TextField } from '../../ui/Field';
import { Panel } from '../../ui/Panel';
import styles from './Bench.module.css';

interface Props {
  readonly groups: readonly WorkGroup[];
  readonly sizing: Sizing;
  readonly mostSeats: number | undefined;
}

/** The other way round: so many hosts carry how many people? */
export function OtherWay({ groups, sizing, mostSeats }: Props) {
  const sizes = [
    ...new Map(sizing.sites.flatMap((site) => site.sizes).map((one) => [one.key, one])).values(),
  ];
  const [hosts, setHosts] = useState(String(sizing.pools[0]?.hosts ?? 4));
  const [key, setKey] = useState(sizing.pools[0]?.size ?? sizes[0]?.key ?? '');
  const size = sizes.find((one) => one.key === key) ?? sizes[0];
  const number = /^\d{1,4}$/.test(hosts) ? Number(hosts) : 0;
  if (!size) return null;
  const carried = (spare: number): string => {
    const { people, atOnce } = carriedBy(number, size, groups, spare, mostSeats);
    return `${count(people, 'person', 'people')}, ${atOnce} at once`;
  };
  return (
    <Panel title="The other way round">
      <div className={styles.other}>
        <TextField
          label="Hosts"
          inputMode="numeric"
          value={hosts}
          onChange={(event) => setHosts(event.target.value)}
        />
        <SelectField label="Of" value={size.key} onChange={(event) => setKey(event.target.value)}>
          {sizes.map((one) => (
            <option key={one.key} value={one.key}>
              {writeSize(one)}
            </option>
          ))}
        </SelectField>
        <dl className={styles.carries} aria-live="polite">
          <div>
            <dt>carry, with a host to spare</dt>
            <dd>{carried(1)}</dd>
          </div>
          <div>
            <dt>and with none</dt>
            <dd>{carried(0)}</dd>
          </div>
        </dl>
      </div>
    </Panel>
  );
}
