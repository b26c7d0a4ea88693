import { Play, Trash2, Wrench } from 'lucide-react';
import type { MadeImage, MadeVersion, RunWithSteps, Step } from '../../contract';
import { get } from '../../client/api';
import { writeSpan, writeWhen } from '../../client/format';
import { useLive } from '../../client/live';
import { Button } from '../../ui/Button';
import { Chip, type ChipTone } from '../../ui/Chip';
import { Panel } from '../../ui/Panel';
import { stepWords } from '../run/words';
import type { Changing } from '../shared/changing';
import styles from './Images.module.css';

interface Props {
  readonly image: MadeImage;
  readonly version: MadeVersion;
  readonly runId: string;
  readonly initial: RunWithSteps | undefined;
  readonly now: number;
  readonly ask: ((change: Changing) => void) | undefined;
  readonly onMend: (() => void) | undefined;
}

const TONE: Readonly<Record<Step['state'], ChipTone>> = {
  done: 'good',
  overtaken: 'quiet',
  working: 'busy',
  failed: 'bad',
  waiting: 'quiet',
};

/** A build at work: step after step with what it writes; and what can be done about one that has stopped. */
export function Work({ image, version, runId, initial, ask, onMend }: Props) {
  const { value: run } = useLive(
    {
      key: `build ${runId}`,
      read: () => get('/customers/{customer}/runs/{run}', { customer: image.owner, run: runId }),
    },
    initial,
    `/customers/${image.owner}/events`,
    (change) => change.topic === 'run' && change.id === runId,
  );
  const isStopped = run?.state === 'stopped';
  const shown = run?.graph.find((step) => step.state === 'failed') ?? run?.graph.findLast(isAtWork);
  return (
    <Panel
      title={isStopped ? `Version ${version.number} has stopped` : `Version ${version.number} is being built`}
      side={
        isStopped && ask ? (
          <span className={styles.actions}>
            <Button
              icon={<Trash2 size={15} aria-hidden="true" />}
              onPress={() => ask(ofVersion('end-build', 'Give up', version))}
            >
              Give it up…
            </Button>
            <Button icon={<Wrench size={15} aria-hidden="true" />} onPress={() => onMend?.()}>
              Mend the recipe
            </Button>
            <Button
              kind="main"
              icon={<Play size={15} aria-hidden="true" />}
              onPress={() =>
                ask({ ...ofVersion('go-on', 'Go on', version), what: `with version ${version.number}` })
              }
            >
              Go on…
            </Button>
          </span>
        ) : (
          run && <a href={`/customers/${image.owner}/runs/${run.id}`}>Its run</a>
        )
      }
    >
      {isStopped && (
        <p className={styles.says}>
          Its machine stays until {writeWhen(version.keepUntil, 'UTC')} for someone to look; then the version
          is given up. {image.name} stays as it is.
        </p>
      )}
      <ol className={styles.steps} aria-live="polite">
        {run?.graph.map((step) => (
          <StepLine key={step.id} step={step} isShown={step.id === shown?.id} />
        ))}
      </ol>
    </Panel>
  );
}

const isAtWork = (step: Step): boolean => step.state === 'working';

function StepLine({ step, isShown }: { readonly step: Step; readonly isShown: boolean }) {
  const about = step.action === 'apply' ? step.subject.replace(/^[^:]*: /, '') : stepWords(step);
  const took =
    step.beganAt !== null && step.endedAt !== null ? writeSpan((step.endedAt - step.beganAt) / 1000) : '';
  return (
    <li>
      <Chip tone={TONE[step.state]}>{step.state}</Chip>
      <span>
        {about}
        {took !== '' && step.state === 'done' && <span className={styles.none}> · {took}</span>}
      </span>
      {step.says !== '' && <small>{step.says}</small>}
      {isShown && step.output !== '' && (
        <pre className={styles.output} tabIndex={0} aria-label={`What ${about} wrote`}>
          {step.output}
        </pre>
      )}
    </li>
  );
}

const ofVersion = (kind: string, verb: string, { number }: MadeVersion): Changing => ({
  kind,
  verb,
  what: `version ${number}`,
  input: { version: number },
});
