import type { Provider } from '../../contract';
import { Plus } from 'lucide-react';
import { writeDay } from '../../client/format';
import { ButtonLink } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { Panel } from '../../ui/Panel';
import styles from './Ground.module.css';

/** The providers that are connected, and the way to connect another. */
export function Providers({
  providers,
  mayConnect,
}: {
  readonly providers: readonly Provider[];
  readonly mayConnect: boolean;
}) {
  return (
    <Panel
      title="Providers"
      side={
        mayConnect && (
          <ButtonLink href="/ground/connect" icon={<Plus size={15} aria-hidden="true" />}>
            Connect a provider
          </ButtonLink>
        )
      }
    >
      <ul className={styles.providers}>
        {providers.map((one) => (
          <li key={one.code}>
            <b>{one.name}</b>
            <span className="mono">{one.url}</span>
            <Chip tone={one.signIn.worked ? 'good' : 'bad'}>
              {one.signIn.says}
              {one.secretEndsAt !== null && `; its secret ends ${writeDay(one.secretEndsAt, 'UTC')}`}
            </Chip>
            {mayConnect && <a href={`/ground/connect?provider=${one.code}`}>Connection</a>}
          </li>
        ))}
      </ul>
    </Panel>
  );
}
