import { useEffect, useState } from 'react';
import { BookUser, Check, Link2 } from 'lucide-react';
import type { DirectoryLink as LinkData, ImportOutcome, LinkTry } from '../../contract';
import { newKey, send, whyOf } from '../../client/api';
import { count, writeWhen } from '../../client/format';
import { Button, ButtonLink } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { ManyField, TextField } from '../../ui/Field';
import { Figure, Figures, Panel } from '../../ui/Panel';
import { Ring } from '../../ui/Ring';
import styles from './DirectoryLink.module.css';

interface Props {
  readonly code: string;
  readonly zone: string;
  readonly initial: LinkData;
  readonly mayChange: boolean;
}

const TYPING_MS = 400;

/** Which part of their directory is theirs here, and who would come with it? Tried for real, as one types. */
export function DirectoryLink({ code, zone, initial, mayChange }: Props) {
  const [link, setLink] = useState(initial);
  const [account, setAccount] = useState(initial.account ?? '');
  const [secret, setSecret] = useState('');
  const [units, setUnits] = useState(initial.units);
  const [groups, setGroups] = useState(initial.groups);
  const [reason, setReason] = useState('');
  const [problem, setProblem] = useState<string>();
  const [outcome, setOutcome] = useState<ImportOutcome>();
  const sent = {
    account: account.trim(),
    secret: secret === '' ? null : secret,
    units: [...units],
    groups: [...groups],
  };
  const mayTry = sent.account !== '' && (sent.secret !== null || link.account !== null);
  const tried = useTry(code, mayTry && mayChange ? JSON.stringify(sent) : undefined);
  const isKept =
    link.account === sent.account &&
    sent.secret === null &&
    JSON.stringify([link.units, link.groups]) === JSON.stringify([units, groups]);
  const keep = async (): Promise<void> => {
    setProblem(undefined);
    try {
      const body = { ...sent, reason };
      setLink(
        await send('PUT', '/customers/{customer}/directory', { customer: code }, { body, key: newKey() }),
      );
      setSecret('');
      setReason('');
    } catch (error) {
      setProblem(whyOf(error));
    }
  };
  const take = async (): Promise<void> => {
    setProblem(undefined);
    try {
      setOutcome(
        await send('POST', '/customers/{customer}/directory/reading', { customer: code }, { key: newKey() }),
      );
    } catch (error) {
      setProblem(whyOf(error));
    }
  };
  return (
    <div className={styles.columns}>
      <Panel
        title={`Directory ${link.realm}`}
        side={
          link.readAt === null ? undefined : (
            <span className={styles.quiet}>
              {count(link.people ?? 0, 'person', 'people')} read {writeWhen(link.readAt, zone)}
            </span>
          )
        }
      >
        <div className={styles.form}>
          <TextField
            label="Account to read with"
            autoComplete="off"
            spellCheck={false}
            disabled={!mayChange}
            value={account}
            onChange={(event) => setAccount(event.target.value)}
          />
          <TextField
            label="Its secret"
            type="password"
            autoComplete="off"
            disabled={!mayChange}
            value={secret}
            {...(link.account === null ? {} : { help: 'left empty: the one that is kept' })}
            error={tried?.outcome === 'fails' ? `${tried.says}. ${tried.fix}` : undefined}
            onChange={(event) => setSecret(event.target.value)}
          />
          <Scope
            title="Units, each with all below it"
            all={tried?.units ?? []}
            chosen={units}
            onChange={setUnits}
          />
          <Scope title="Groups" all={tried?.groups ?? []} chosen={groups} onChange={setGroups} />
          {mayChange && !isKept && tried?.outcome === 'works' && (
            <>
              <TextField
                label="Why"
                placeholder="for the trail"
                value={reason}
                onChange={(event) => setReason(event.target.value)}
              />
              <div>
                <Button kind="main" icon={<Link2 size={16} aria-hidden="true" />} onPress={() => void keep()}>
                  Keep the link of {code}
                </Button>
              </div>
            </>
          )}
          {problem !== undefined && (
            <p role="alert" className={styles.problem}>
              {problem}
            </p>
          )}
        </div>
      </Panel>
      <Panel title="Who would come">
        <Coming tried={tried?.outcome === 'works' ? tried : undefined} />
        {tried?.outcome !== 'works' && (
          <p className={styles.quiet}>
            {mayChange
              ? 'With account and secret it is signed in to for real, and counted. Nobody is taken in before you say so.'
              : 'An engineer or a lead can have it counted.'}
          </p>
        )}
        {mayChange && link.account !== null && isKept && tried?.outcome === 'works' && (
          <div className={styles.take}>
            <Button
              kind="main"
              icon={<BookUser size={16} aria-hidden="true" />}
              isDisabled={!tried.fits || tried.people === 0}
              onPress={() => void take()}
            >
              Take {count(tried.people, 'person', 'people')} in for {code}
            </Button>
          </div>
        )}
        {outcome && (
          <p role="status" className={styles.done}>
            <Check size={16} aria-hidden="true" /> {count(outcome.added, 'person', 'people')} added,{' '}
            {outcome.changed} changed{outcome.badRows > 0 && `, ${outcome.badRows} not taken in`}.{' '}
            <ButtonLink kind="quiet" href={`/customers/${code}/people`}>
              See them
            </ButtonLink>
          </p>
        )}
      </Panel>
    </div>
  );
}

function Scope({
  title,
  all,
  chosen,
  onChange,
}: {
  readonly title: string;
  readonly all: LinkTry['units'];
  readonly chosen: readonly string[];
  readonly onChange: (chosen: readonly string[]) => void;
}) {
  // What was chosen once and is no more in it can be taken out still.
  const gone = chosen.filter((one) => !all.some(({ name }) => name === one));
  if (all.length === 0 && gone.length === 0) return null;
  return (
    <ManyField
      label={title}
      help="none pressed in either: everyone"
      options={[
        ...all.map(({ name, people }) => ({ value: name, name: `${name} · ${people}` })),
        ...gone.map((name) => ({ value: name, name: `${name} · not there` })),
      ]}
      chosen={chosen}
      onChange={onChange}
    />
  );
}

/** Everyone in the directory: who would come, and why the others would not. Drawn before it is known, too. */
function Coming({ tried }: { readonly tried: LinkTry | undefined }) {
  const added = tried && tried.people - tried.known;
  const arcs = [
    { look: 'full' as const, parts: tried?.known ?? 0, fill: 1 },
    { look: 'notched' as const, parts: added ?? 0, fill: 1 },
    { look: 'hollow' as const, parts: tried?.disabled ?? 0, fill: 0 },
    { look: 'dashed' as const, parts: tried?.outside ?? 0, fill: 0 },
    { look: 'crossed' as const, parts: tried?.unfit ?? 0, fill: 0 },
  ].filter(({ parts }) => parts > 0);
  return (
    <>
      <div className={styles.who}>
        <Ring size={148} label="" arcs={arcs} unit="would come">
          {tried?.people ?? '–'}
        </Ring>
        <Figures>
          <Figure value={tried?.known ?? '–'} label="known here" />
          <Figure value={added ?? '–'} label="new here" />
          <Figure value={tried?.disabled ?? '–'} label="switched off there" />
          <Figure value={tried?.outside ?? '–'} label="outside the scope" />
        </Figures>
      </div>
      {tried && <p className={styles.quiet}>{tried.says}</p>}
      <Faults tried={tried} />
    </>
  );
}

/** Why not all of them can be taken in. */
function Faults({ tried }: { readonly tried: LinkTry | undefined }) {
  if (!tried) return null;
  return (
    <>
      {!tried.fits && <Chip tone="bad">more than the plan allows</Chip>}
      {tried.unfit > 0 && (
        <div className={styles.bad}>
          <b>{count(tried.unfit, 'cannot be taken in', 'cannot be taken in')}</b>
          <ul>
            {tried.bad.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
        </div>
      )}
    </>
  );
}

/** What came of trying it, once typing rests. @param asked undefined: there is nothing to try yet */
function useTry(code: string, asked: string | undefined): LinkTry | undefined {
  const [tried, setTried] = useState<LinkTry>();
  useEffect(() => {
    let ended = false;
    const timer = setTimeout(() => {
      if (asked === undefined) {
        setTried(undefined);
        return;
      }
      const body = JSON.parse(asked) as never;
      send('POST', '/customers/{customer}/directory/tried', { customer: code }, { body }).then(
        (answer) => {
          if (!ended) setTried(answer);
        },
        () => {
          if (!ended) setTried(undefined);
        },
      );
    }, TYPING_MS);
    return () => {
      ended = true;
      clearTimeout(timer);
    };
  }, [asked, code]);
  return tried;
}
