import { CircleCheckBig, Copy, Trash2, Undo2 } from 'lucide-react';
import type { MadeImage, MadeVersion } from '../../contract';
import { count, writeWhen } from '../../client/format';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { Panel } from '../../ui/Panel';
import type { Changing } from '../shared/changing';
import { ageOf, hostsOf, isBuilding, STATE_TONE, wordOf } from './line';
import styles from './Images.module.css';

interface Props {
  readonly image: MadeImage;
  readonly version: MadeVersion;
  readonly sites: readonly { readonly code: string; readonly name: string }[];
  readonly now: number;
  readonly ask: ((change: Changing) => void) | undefined;
}

/** One version: what changed in it, where it is, who stands on it, and what can be done with it. */
export function Version({ image, version, sites, now, ask }: Props) {
  const { number, state } = version;
  return (
    <Panel
      title={`${image.code}@${number}`}
      side={<Chip tone={isBuilding(version) ? 'busy' : STATE_TONE[state]}>{wordOf(image, version)}</Chip>}
    >
      <div className={styles.facts}>
        <p className={styles.says}>
          {version.note}. From {version.from}
          {version.capturedAt !== null &&
            `, captured ${writeWhen(version.capturedAt, 'UTC')}, ${ageOf(version, now)}`}
          .
        </p>
        <Changes title="Changed in the recipe" changes={version.recipeChanges} />
        <Changes title="Changed on the disk" changes={version.programChanges} />
        {version.programs.length > 0 && (
          <div>
            <h3>On it</h3>
            {version.programs.join(' · ')}
          </div>
        )}
        {state !== 'dropped' && (
          <div>
            <h3>Where it is</h3>
            <ul className={styles.list}>
              {version.sites.map((one) => (
                <li key={one.site}>
                  <span>{one.name}</span>
                  <small>{one.there ? `${version.gib} GiB` : 'not there yet'}</small>
                </li>
              ))}
            </ul>
          </div>
        )}
        <div>
          <h3>Who stands on it</h3>
          <Uses version={version} />
        </div>
        {ask && <Actions version={version} sites={sites} ask={ask} />}
      </div>
    </Panel>
  );
}

function Changes({
  title,
  changes,
}: {
  readonly title: string;
  readonly changes: MadeVersion['recipeChanges'];
}) {
  if (changes.length === 0) return null;
  return (
    <div>
      <h3>{title}</h3>
      <ul className={styles.list}>
        {changes.map((one) => (
          <li key={`${one.how} ${one.what}`}>
            <span>
              <span className={styles.how}>{one.how}</span> {one.what}
            </span>
            {one.before !== '' && <small>was {one.before}</small>}
          </li>
        ))}
      </ul>
    </div>
  );
}

function Uses({ version }: { readonly version: MadeVersion }) {
  if (hostsOf(version) === 0) return <span className={styles.none}>nobody</span>;
  return (
    <ul className={styles.list}>
      {version.uses.map((one) => (
        <li key={`${one.environmentId} ${one.pool}`}>
          <a href={`/customers/${one.customer}/environments/${one.environmentId}`}>
            {one.customer} {one.environment}, {one.pool}
          </a>
          <small>{count(one.hosts, 'host', 'hosts')}</small>
        </li>
      ))}
      {version.otherHosts > 0 && (
        <li>
          <span>customers out of your reach</span>
          <small>{count(version.otherHosts, 'host', 'hosts')}</small>
        </li>
      )}
    </ul>
  );
}

function Actions({
  version,
  sites,
  ask,
}: Pick<Props, 'version' | 'sites'> & { readonly ask: (change: Changing) => void }) {
  const { number, state } = version;
  if (state === 'dropped' || version.capturedAt === null) return null;
  const of = (kind: string, verb: string, more: Partial<Changing> & { input?: object } = {}): Changing => ({
    kind,
    verb,
    what: `version ${number}`,
    ...more,
    input: { version: number, ...more.input },
  });
  const elsewhere = sites.filter(({ code }) => !version.sites.some((one) => one.site === code));
  return (
    <div className={styles.actions}>
      {state !== 'current' && (
        <Button
          kind="main"
          icon={
            state === 'kept' ? (
              <Undo2 size={15} aria-hidden="true" />
            ) : (
              <CircleCheckBig size={15} aria-hidden="true" />
            )
          }
          onPress={() => ask(of('make-current', state === 'kept' ? 'Go back to' : 'Make current'))}
        >
          {state === 'kept' ? 'Go back to it…' : 'Make it current…'}
        </Button>
      )}
      {elsewhere.map((site) => (
        <Button
          key={site.code}
          icon={<Copy size={15} aria-hidden="true" />}
          onPress={() =>
            ask(
              of('copy-image', 'Copy', {
                what: `version ${number} to ${site.name}`,
                input: { site: site.code },
              }),
            )
          }
        >
          Copy to {site.name}…
        </Button>
      ))}
      {state !== 'current' && hostsOf(version) === 0 && (
        <Button
          icon={<Trash2 size={15} aria-hidden="true" />}
          onPress={() => ask(of('drop-version', 'Drop', { danger: true }))}
        >
          Drop…
        </Button>
      )}
    </div>
  );
}
