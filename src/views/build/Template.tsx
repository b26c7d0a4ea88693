import { useEffect, useMemo, useState } from 'react';
import { Download } from 'lucide-react';
import type { Page, TemplateUse, WholeTemplate } from '../../contract';
import { compareTemplates, readTemplate, type TemplateChange } from '../../core/templates';
import { get, newKey, send, whyOf } from '../../client/api';
import { count, writeWhen } from '../../client/format';
import { useLive } from '../../client/live';
import { Button, ButtonLink } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { TextField } from '../../ui/Field';
import { Mark, type MarkLook } from '../../ui/Mark';
import { Empty, Panel } from '../../ui/Panel';
import { Editor } from './Editor';
import styles from './Template.module.css';
import { useDraft, type KeptDraft } from './use-draft';

interface Props {
  readonly initial: WholeTemplate;
  readonly uses: Page<TemplateUse>;
  readonly marks: Readonly<Record<string, MarkLook>>;
  readonly images: readonly string[];
  readonly zone: string;
  readonly mayChange: boolean;
}

/** One template: what the next revision is to say, what it says otherwise, and who came from which. */
export function Template({ initial, uses, marks, images, zone, mayChange }: Props) {
  const { value: template } = useLive(
    {
      key: `template ${initial.code}`,
      read: () => get('/templates/{template}', { template: initial.code }),
    },
    initial,
    '/events',
    (change) => change.topic === 'ground',
  );
  const draft = useDraft(initial);
  const [looked, setLooked] = useState<number>();
  const read = useMemo(() => readTemplate(draft.text), [draft.text]);
  const faults = read.ok ? [] : read.problem;
  const mark = marks[template.owner];
  const { revision } = template;
  return (
    <div className={styles.page}>
      <header className={styles.head}>
        {mark && <Mark mark={mark} size={30} />}
        <h1>{read.ok ? read.value.name : template.name}</h1>
        <Chip tone={revision === 0 ? 'quiet' : 'good'}>
          {revision === 0 ? 'not published yet' : `revision ${revision}`}
        </Chip>
        <span className={styles.quiet}>
          <code>{template.code}</code>, {template.owner === '' ? 'for everyone' : `${template.owner}’s own`}
        </span>
        <span>
          {revision > 0 && (
            <ButtonLink
              href={`/api/v1/templates/${template.code}/file`}
              icon={<Download size={15} aria-hidden="true" />}
            >
              Export
            </ButtonLink>
          )}
        </span>
      </header>
      <div className={styles.two}>
        <Panel>
          <Editor
            text={draft.text}
            faults={faults}
            images={images}
            onText={mayChange ? draft.setText : undefined}
          />
        </Panel>
        <div className={styles.beside}>
          {mayChange && <Next template={template} draft={draft} isSound={read.ok} />}
          <Revisions template={template} zone={zone} looked={looked} onLook={setLooked} />
          <Uses uses={uses} marks={marks} newest={revision} />
        </div>
      </div>
      {looked !== undefined && <Compared template={template} revision={looked} now={draft.text} />}
    </div>
  );
}

/** What the next revision says otherwise, and its publishing. */
function Next({
  template,
  draft,
  isSound,
}: {
  readonly template: WholeTemplate;
  readonly draft: KeptDraft;
  readonly isSound: boolean;
}) {
  const [note, setNote] = useState('');
  const [problem, setProblem] = useState<string>();
  const [busy, setBusy] = useState(false);
  const { code, owner, revision, text } = template;
  const changes = useMemo(() => changesBetween(text, draft.text), [text, draft.text]);
  const isSame = draft.text === text;
  const publish = async (): Promise<void> => {
    setBusy(true);
    setProblem(undefined);
    try {
      await send(
        'POST',
        '/templates/{template}/revisions',
        { template: code },
        { body: { text: draft.text, owner, note }, key: newKey() },
      );
      location.assign(`/build/templates/${code}`);
    } catch (error) {
      setBusy(false);
      setProblem(whyOf(error));
    }
  };
  return (
    <Panel title={`Revision ${revision + 1}`} side={<Status draft={draft} />}>
      {isSame ? (
        <p className={styles.quiet}>It says what revision {revision} says. Change something.</p>
      ) : (
        <>
          {revision > 0 && <Changes changes={changes} />}
          <div className={styles.publish}>
            <TextField
              label="What is new"
              value={note}
              autoComplete="off"
              error={problem}
              onChange={(event) => setNote(event.target.value)}
            />
            <Button
              kind="main"
              isDisabled={busy || !isSound || note.trim() === ''}
              onPress={() => void publish()}
            >
              Publish revision {revision + 1}
            </Button>
            {!isSound && <p className={styles.quiet}>What is wrong has to be mended first.</p>}
            <Button kind="quiet" onPress={() => void draft.drop()}>
              Give the draft up
            </Button>
          </div>
        </>
      )}
    </Panel>
  );
}

function Status({ draft: { status } }: { readonly draft: KeptDraft }) {
  if (status === 'same') return null;
  if (typeof status === 'object')
    return (
      <span role="alert">
        <Chip tone="bad">{status.problem}</Chip>
      </span>
    );
  return (
    <Chip tone={status === 'kept' ? 'quiet' : 'busy'}>
      {status === 'kept' ? 'draft kept' : 'keeping it …'}
    </Chip>
  );
}

/** Undefined: one of them cannot be read. */
function changesBetween(before: string, after: string): TemplateChange[] | undefined {
  const [was, is] = [readTemplate(before), readTemplate(after)];
  return was.ok && is.ok ? compareTemplates(was.value, is.value) : undefined;
}

function Changes({ changes }: { readonly changes: readonly TemplateChange[] | undefined }) {
  if (!changes) return null;
  if (changes.length === 0)
    return <p className={styles.quiet}>It means the same, and is written otherwise.</p>;
  return (
    <ul className={styles.changes} aria-label="What it says otherwise">
      {changes.map((one) => (
        <li key={`${one.where} ${one.what}`}>
          <small>
            {one.where === '' ? 'the environment' : one.where}: {one.what}
          </small>
          <span>
            {one.before !== '' && <del>{one.before}</del>} {one.after !== '' && <ins>{one.after}</ins>}
          </span>
        </li>
      ))}
    </ul>
  );
}

function Revisions({
  template,
  zone,
  looked,
  onLook,
}: {
  readonly template: WholeTemplate;
  readonly zone: string;
  readonly looked: number | undefined;
  readonly onLook: (revision: number | undefined) => void;
}) {
  const { revisions } = template;
  if (revisions.length === 0) return null;
  return (
    <Panel title="Revisions" side={<small className={styles.quiet}>press one to compare</small>}>
      <ul className={styles.revisions}>
        {revisions.map((one) => (
          <li key={one.revision}>
            <button
              type="button"
              aria-pressed={looked === one.revision}
              onClick={() => onLook(looked === one.revision ? undefined : one.revision)}
            >
              <b>
                {one.revision}: {one.note}
              </b>
              <small>
                {one.by}, {writeWhen(one.at, zone)}
              </small>
            </button>
          </li>
        ))}
      </ul>
    </Panel>
  );
}

/** A revision beside what is written now: what it means otherwise, and both texts. */
function Compared({
  template,
  revision,
  now,
}: {
  readonly template: WholeTemplate;
  readonly revision: number;
  readonly now: string;
}) {
  const [before, setBefore] = useState<{ revision: number; text: string }>();
  const [problem, setProblem] = useState<string>();
  useEffect(() => {
    let ended = false;
    get('/templates/{template}/revisions/{revision}', {
      template: template.code,
      revision: String(revision),
    }).then(
      (found) => !ended && setBefore({ revision, text: found.text }),
      (error: unknown) => !ended && setProblem(whyOf(error)),
    );
    return () => {
      ended = true;
    };
  }, [template.code, revision]);
  const current = before?.revision === revision ? before : undefined;
  const changes = useMemo(() => current && changesBetween(current.text, now), [current, now]);
  const title = `Revision ${revision} beside ${now === template.text ? `revision ${template.revision}` : 'what is written now'}`;
  if (problem !== undefined) return <p role="alert">{problem}</p>;
  if (!current) return null;
  return (
    <Panel title={title}>
      <div className={styles.compared}>
        <table>
          <thead className="sr">
            <tr>
              <th>What</th>
              <th>Revision {revision}</th>
              <th>Now</th>
            </tr>
          </thead>
          <tbody>
            {(changes ?? []).map((one) => (
              <tr key={`${one.where} ${one.what}`}>
                <th scope="row">
                  {one.where === '' ? 'the environment' : one.where}: {one.what}
                </th>
                <td>{one.before === '' ? 'not there' : one.before}</td>
                <td>{one.after === '' ? 'not there' : one.after}</td>
              </tr>
            ))}
            {changes?.length === 0 && (
              <tr>
                <td colSpan={3}>They mean the same.</td>
              </tr>
            )}
          </tbody>
        </table>
        <pre tabIndex={0} aria-label={`Revision ${revision}`}>
          {current.text}
        </pre>
        <pre tabIndex={0} aria-label="Now">
          {now}
        </pre>
      </div>
    </Panel>
  );
}

/** What came from the template, whose it is, from which revision, and how far it has gone from it. */
function Uses({
  uses,
  marks,
  newest,
}: {
  readonly uses: Page<TemplateUse>;
  readonly marks: Props['marks'];
  readonly newest: number;
}) {
  const { entries } = uses;
  const title = `${count(entries.length, 'environment', 'environments')}${uses.next === null ? '' : ' and more'} from it`;
  if (entries.length === 0)
    return (
      <Panel title="Nothing came from it yet">
        <Empty says="Choose a customer, then Provision.">
          <ButtonLink href="/customers">Customers</ButtonLink>
        </Empty>
      </Panel>
    );
  return (
    <Panel title={title}>
      <ul className={styles.uses}>
        {entries.map((one) => {
          const mark = marks[one.customer];
          return (
            <li key={one.id}>
              <a href={`/customers/${one.customer}/environments/${one.id}`}>
                {mark && <Mark mark={mark} size={26} />}
                <span>{one.name}</span>
              </a>
              <span>
                {one.deviations > 0 && <Chip tone="care">{one.deviations} otherwise</Chip>}{' '}
                <Chip tone={one.revision === newest ? 'good' : 'care'}>r{one.revision}</Chip>
              </span>
            </li>
          );
        })}
      </ul>
    </Panel>
  );
}
