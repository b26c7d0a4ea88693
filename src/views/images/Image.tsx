import { lazy, Suspense, useState } from 'react';
import { Hammer, NotebookPen, Trash2 } from 'lucide-react';
import type { MadeImage, MadeVersion, RunWithSteps } from '../../contract';
import { get } from '../../client/api';
import { writeWhen } from '../../client/format';
import { useLive } from '../../client/live';
import { Button } from '../../ui/Button';
import type { MarkLook } from '../../ui/Mark';
import { Panel } from '../../ui/Panel';
import type { Changing } from '../shared/changing';
import { Confirm } from '../shared/Confirm';
import { buildOf, isBuilding } from './line';
import { Outlook } from './Outlook';
import { Refresh } from './Refresh';
import { useSaved } from './use-saved';
import { Version } from './Version';
import { Work } from './Work';
import styles from './Images.module.css';

const RecipeEditor = lazy(() => import('./RecipeEditor'));
const Secrets = lazy(() => import('./Secrets'));
const Saved = lazy(() => import('./Saved'));

interface Props {
  readonly initial: MadeImage;
  /** The run that last worked on a version. */
  readonly build: RunWithSteps | undefined;
  readonly sites: readonly { readonly code: string; readonly name: string }[];
  readonly countries: readonly { readonly code: string; readonly name: string }[];
  /** Whose it is. */
  readonly owner: { readonly code: string; readonly name: string; readonly mark: MarkLook };
  readonly now: number;
  readonly mayChange: boolean;
  /** A copy that a check elsewhere asks for: it is asked about at once. */
  readonly copy: { readonly version: number; readonly site: string } | undefined;
}

/** One image: its line, the build that is at work, the recipe of the next version, and what each version is. */
export function Image({ initial, build, sites, countries, owner, now, mayChange, copy }: Props) {
  const { value: image, again } = useLive(
    {
      key: `image ${initial.code}`,
      read: async () => (await get('/images', {})).images.find((one) => one.id === initial.id) ?? initial,
    },
    initial,
    '/events',
    (change) => ['environment', 'run'].includes(change.topic),
  );
  const toCopy = copy && copyOf(copy, sites);
  const [asked, setAsked] = useState<Changing | undefined>(mayChange ? toCopy : undefined);
  const [chosen, setChosen] = useState(firstToShow(image)?.number);
  const [editing, setEditing] = useState(false);
  const { saved } = useSaved(owner.code);
  const ask = mayChange ? setAsked : undefined;
  const version = image.versions.find((one) => one.number === chosen);
  const building = image.versions.find(isBuilding);
  const run = buildOf(image);
  const latest = image.versions[0];
  return (
    <div className={styles.page}>
      <h1 className="sr">{image.name}</h1>
      <Panel
        title={image.name}
        side={
          <span className={styles.actions}>
            {ask && (
              <Button
                kind="quiet"
                icon={<Trash2 size={16} aria-hidden="true" />}
                onPress={() => ask(retiring(image))}
              >
                Retire…
              </Button>
            )}
            {mayChange && (
              <Button
                icon={<NotebookPen size={16} aria-hidden="true" />}
                onPress={() => setEditing(true)}
                isDisabled={editing}
              >
                Recipe
              </Button>
            )}
            {ask && !building && (
              <Button
                kind="main"
                icon={<Hammer size={16} aria-hidden="true" />}
                onPress={() => ask(nextBuild(latest))}
              >
                Build version {(latest?.number ?? 0) + 1}…
              </Button>
            )}
          </span>
        }
      >
        <Outlook image={image} now={now} chosen={chosen} onChoose={setChosen} />
      </Panel>
      {editing && (
        <Panel
          title="The recipe of the next version"
          side={
            <Button kind="quiet" onPress={() => setEditing(false)}>
              Close
            </Button>
          }
        >
          <Suspense fallback={<p>Opening the recipe …</p>}>
            <RecipeEditor
              before={image.recipe}
              saved={saved.map(({ name }) => name)}
              onKeep={(recipe) =>
                setAsked({
                  kind: 'write-recipe',
                  verb: 'Keep',
                  what: `the recipe of ${image.name}`,
                  input: { recipe },
                  done: () => setEditing(false),
                })
              }
            />
            {mayChange && <Saved owner={owner.code} recipe={image.recipe} />}
            {mayChange && <Secrets owner={owner.code} recipe={image.recipe} />}
          </Suspense>
        </Panel>
      )}
      {building && run && (
        <Work
          key={run.id}
          image={image}
          version={building}
          runId={run.id}
          initial={build?.id === run.id ? build : undefined}
          now={now}
          ask={ask}
          onMend={mayChange ? () => setEditing(true) : undefined}
        />
      )}
      <div className={styles.columns}>
        {version && <Version image={image} version={version} sites={sites} now={now} ask={ask} />}
        <div className={styles.column}>
          <Refresh image={image} countries={countries} ask={ask} />
          <Panel title="What was done">
            <ul className={styles.list}>
              {image.runs
                .filter(isTold)
                .slice(0, 12)
                .map((one) => (
                  <li key={one.id}>
                    <span>
                      <a href={`/runs?find=${encodeURIComponent(one.title)}`}>{one.title}</a>
                      {one.state !== 'done' && ` (${one.state})`}
                    </span>
                    <small>
                      {one.actor}, {writeWhen(one.begunAt, 'UTC')}
                      {one.reason !== '' && `: ${one.reason}`}
                    </small>
                  </li>
                ))}
            </ul>
          </Panel>
        </div>
      </div>
      {asked && (
        <Confirm
          key={`${asked.kind} ${asked.what}`}
          customer={owner}
          environment={image.id}
          change={asked}
          onClose={() => setAsked(undefined)}
          onBegun={again}
        />
      )}
    </div>
  );
}

/** That a machine goes once its version is captured goes without saying. */
const isTold = ({ kind, state }: MadeImage['runs'][number]): boolean =>
  kind !== 'end-build' || state !== 'done';

/** What one looks for first: what is on trial or being built, else what is current. */
const firstToShow = ({ versions }: MadeImage): MadeVersion | undefined =>
  versions.find((one) => one.state === 'trial') ??
  versions.find((one) => one.state === 'current') ??
  versions[0];

const nextBuild = (latest: MadeVersion | undefined): Changing => ({
  kind: 'build-image',
  verb: 'Build',
  what: `version ${(latest?.number ?? 0) + 1}`,
  input: { note: '' },
  field: {
    name: 'note',
    label: latest ? 'What is otherwise than before' : 'What it is',
    type: 'text',
    help: 'whoever decides about it reads this beside the version',
  },
});

const retiring = ({ name }: MadeImage): Changing => ({
  kind: 'retire',
  verb: 'Retire',
  what: name,
  input: {},
  danger: true,
  done: () => location.assign('/build/images'),
});

const copyOf = (
  { version, site }: { readonly version: number; readonly site: string },
  sites: Props['sites'],
): Changing => ({
  kind: 'copy-image',
  verb: 'Copy',
  what: `version ${version} to ${sites.find((one) => one.code === site)?.name ?? site}`,
  input: { version, site },
});
