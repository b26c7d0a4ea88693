import { Check } from 'lucide-react';
import { Panel } from '../../ui/Panel';
import { Ring } from '../../ui/Ring';
import styles from './Begin.module.css';

export type Begun = Readonly<Record<(typeof STEPS)[number]['key'], boolean>>;

/** In the order in which one thing needs another. */
const STEPS = [
  {
    key: 'sites',
    verb: 'Connect a provider',
    says: 'its sites, sizes and images are read',
    href: '/ground/connect',
  },
  { key: 'prices', verb: 'Take its prices over', says: 'what its things cost us', href: '/ground/changes' },
  {
    key: 'ranges',
    verb: 'Give a site addresses',
    says: 'customers get blocks of them',
    href: '/ground/addresses',
  },
  {
    key: 'services',
    verb: 'Provide shared services',
    says: 'directory, gateways and name servers, in a network at the site',
    href: '/ground/networks',
  },
  { key: 'cards', verb: 'Make a rate card', says: 'what is charged, on what we pay', href: '/money/prices' },
  { key: 'plans', verb: 'Make a plan', says: 'what a customer may have', href: '/money/plans/edit' },
  { key: 'templates', verb: 'Begin with a template', says: 'what is built for them', href: '/build' },
] as const;

/** What comes first, where nobody is hosted yet? */
export function Begin({ begun }: { readonly begun: Begun }) {
  const done = STEPS.filter(({ key }) => begun[key]).length;
  const next = STEPS.find(({ key }) => !begun[key])?.key;
  return (
    <Panel title="Nobody is hosted yet">
      <h1 className="sr">Watch</h1>
      <div className={styles.begin}>
        <Ring
          size={240}
          label={`${done} of ${STEPS.length + 1} steps done`}
          unit={`of ${STEPS.length + 1} steps`}
          arcs={[...STEPS.map(({ key }) => begun[key]), false].map((isDone) => ({
            look: isDone ? 'full' : 'hollow',
            parts: 1,
            fill: 1,
          }))}
        >
          {done}
        </Ring>
        <ol className={styles.steps}>
          {STEPS.map(({ key, ...step }) => (
            <Step key={key} {...step} done={begun[key]} isNext={key === next} />
          ))}
          <Step
            verb="Take on a customer"
            says="by hand, like another, or from a file"
            href="/customers/new"
            done={false}
            isNext={next === undefined}
          />
        </ol>
      </div>
    </Panel>
  );
}

function Step({
  verb,
  says,
  href,
  done,
  isNext,
}: {
  readonly verb: string;
  readonly says: string;
  readonly href: string;
  readonly done: boolean;
  readonly isNext: boolean;
}) {
  return (
    <li
      data-done={done || undefined}
      data-next={isNext || undefined}
      {...(isNext ? { 'aria-current': 'step' } : {})}
    >
      <a href={href}>{verb}</a>
      <small>{says}</small>
      {done && <Check size={16} aria-label="done" />}
    </li>
  );
}
