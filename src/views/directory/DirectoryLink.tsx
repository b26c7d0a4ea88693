import { useEffect, useState, type ReactNode } from 'react';
import { BookUser, Check, Link2 } from 'lucide-react';
import type { DirectoryLink as LinkData, LinkTry, SentLink } from '../../contract';
import { ApiProblem, get, newKey, send, whyOf } from '../../client/api';
import { count, writeFigure, writeWhen } from '../../client/format';
import { useLive } from '../../client/live';
import { useStored } from '../../client/stored';
import { Button, ButtonLink } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { ManyField, SelectField, TextField } from '../../ui/Field';
import { Figure, Figures, Panel } from '../../ui/Panel';
import { Ring } from '../../ui/Ring';
import styles from './DirectoryLink.module.css';
import { WhyField } from '../shared/WhyField';

interface Props {
  readonly code: string;
  readonly zone: string;
  readonly initial: LinkData;
  readonly mayChange: boolean;
  /** What else is said of it, below how it is read. */
  readonly children?: ReactNode;
}

const TYPING_MS = 400;

/** Which part of their directory is theirs here, and who would come with it? Tried for real, as one types. */
export function DirectoryLink({ code, zone, initial, mayChange, children }: Props) {
  const { value: link, again } = useLive<LinkData>(
    { key: 'directory', read: () => get('/customers/{customer}/directory', { customer: code }) },
    initial,
    `/customers/${code}/events`,
    (change) => change.topic === 'people',
  );
  const [secret, setSecret] = useState('');
  const [place, setPlace] = useState(placeOf(initial));
  const [units, setUnits] = useState(initial.units);
  const [groups, setGroups] = useState(initial.groups);
  const [reason, setReason] = useState('');
  const [problem, setProblem] = useState<string>();
  const stored = useStored(
    initial.linked ? { ...placeOf(initial), units: initial.units, groups: initial.groups } : null,
  );
  const sent = {
    secret: secret.trim() === '' ? null : secret.trim(),
    ...place,
    units: [...units],
    groups: [...groups],
  };
  const isThere = JSON.stringify(placeOf(link)) === JSON.stringify(place);
  const mayTry = sent.secret !== null || (link.linked && isThere);
  const { tried, isTrying, faults } = useTry(
    code,
    mayTry && mayChange ? JSON.stringify({ sent, movedAt: link.movedAt }) : undefined,
  );
  const isKept =
    link.linked &&
    sent.secret === null &&
    isThere &&
    JSON.stringify([link.units, link.groups]) === JSON.stringify([units, groups]);
  const doing = async (work: () => Promise<unknown>): Promise<void> => {
    setProblem(undefined);
    try {
      await work();
      again();
    } catch (error) {
      setProblem(whyOf(error));
    }
  };
  const keep = (): Promise<void> =>
    doing(async () => {
      const body = { ...sent, reason };
      await send(
        'PUT',
        '/customers/{customer}/directory',
        { customer: code },
        { body, key: newKey(), stored },
      );
      setSecret('');
      setReason('');
    });
  const take = (agree: string | null): Promise<void> =>
    doing(() =>
      send(
        'POST',
        '/customers/{customer}/directory/reading',
        { customer: code },
        { body: { agree }, key: newKey() },
      ),
    );
  return (
    <div className={styles.columns}>
      <div className={styles.side}>
        <Panel
          title={`Directory ${link.realm}`}
          side={
            link.readAt === null ? undefined : (
              <span className={styles.quiet}>
                {count(link.people ?? 0, 'person', 'people')} read {writeWhen(link.readAt, zone)}
                {link.movedAt !== null && `, changed ${writeWhen(link.movedAt, zone)}`}
              </span>
            )
          }
        >
          <div className={styles.form}>
            <Place place={place} onChange={setPlace} faults={faults} disabled={!mayChange} />
            <TextField
              label={SECRETS[place.via]}
              type={place.via === 'push' ? 'text' : 'password'}
              autoComplete="off"
              disabled={!mayChange}
              value={secret}
              {...(link.linked && isThere ? { help: 'left empty: the one that is kept' } : {})}
              error={tried?.outcome === 'fails' ? `${tried.says}. ${tried.fix}` : faults.secret}
              onChange={(event) => setSecret(event.target.value)}
            />
            {place.via === 'push' && mayChange && (
              <div>
                <Button onPress={() => setSecret(newToken())}>Make a token</Button>
                <p className={styles.quiet}>
                  It pushes to <span className="mono">/scim/v2/{code}</span> here. Copy the token before it is
                  kept: it is not shown again.
                </p>
              </div>
            )}
            <Scope
              title="Units, each with all below it"
              all={(tried?.units ?? []).map(({ name, people }) => ({
                value: name,
                name: `${name} · ${writeFigure(people)}`,
              }))}
              chosen={units}
              onChange={setUnits}
            />
            <Scope
              title="Groups, each with all groups in it"
              all={(tried?.groups ?? []).map(({ id, name, people }) => ({
                value: id,
                name: `${name} · ${writeFigure(people)}`,
              }))}
              chosen={groups}
              onChange={setGroups}
            />
            {mayChange && !isKept && tried?.outcome === 'works' && (
              <>
                <WhyField value={reason} onChange={setReason} />
                <div>
                  <Button
                    kind="main"
                    icon={<Link2 size={16} aria-hidden="true" />}
                    onPress={() => void keep()}
                  >
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
        {children}
      </div>
      <Panel title={link.readAt === null ? 'Who would come' : 'Who would come and go now'}>
        <Coming tried={tried?.outcome === 'works' ? tried : undefined} />
        {tried?.outcome !== 'works' && (
          <p className={styles.quiet}>
            {isTrying
              ? 'It is being read for real, and counted.'
              : mayChange
                ? 'With a token or a password it is read for real, and counted. Nobody is taken in before you say so.'
                : 'An engineer or a lead can have it counted.'}
          </p>
        )}
        {tried?.outcome !== 'works' && <Bad says="Could not be taken in" bad={link.bad} />}
        <Reading
          code={code}
          link={link}
          tried={mayChange && isKept && tried?.outcome === 'works' ? tried : undefined}
          onTake={(agree) => void take(agree)}
        />
      </Panel>
    </div>
  );
}

const SECRETS = { scim: 'Token to read with', ldap: 'Password', push: 'Token that it shows us' } as const;

type PlaceData = Pick<SentLink, 'via' | 'address' | 'base' | 'bindAs'>;

const placeOf = ({ via, address, base, bindAs }: PlaceData): PlaceData => ({ via, address, base, bindAs });

/** How it is read: over their directory service, or past it from a server of their own. */
function Place({
  place,
  onChange,
  faults,
  disabled,
}: {
  readonly place: PlaceData;
  readonly onChange: (place: PlaceData) => void;
  readonly faults: Readonly<Record<string, string>>;
  readonly disabled: boolean;
}) {
  return (
    <>
      <SelectField
        label="Read over"
        value={place.via}
        disabled={disabled}
        onChange={(event) =>
          onChange(
            event.target.value === 'ldap'
              ? { ...place, via: 'ldap' }
              : { ...NOWHERE, via: event.target.value === 'push' ? 'push' : 'scim' },
          )
        }
      >
        <option value="scim">their directory service, SCIM 2.0</option>
        <option value="ldap">a server of their own, LDAP</option>
        <option value="push">what it pushes to us, SCIM 2.0</option>
      </SelectField>
      {place.via === 'ldap' &&
        LDAP_FIELDS.map(({ name, label, placeholder }) => (
          <TextField
            key={name}
            label={label}
            placeholder={placeholder}
            disabled={disabled}
            spellCheck={false}
            value={place[name]}
            error={faults[name]}
            onChange={(event) => onChange({ ...place, [name]: event.target.value })}
          />
        ))}
    </>
  );
}

const NOWHERE = { address: '', base: '', bindAs: '' };

const LDAP_FIELDS = [
  { name: 'address', label: 'Address', placeholder: 'ldaps://directory.harbour.example' },
  { name: 'base', label: 'Below', placeholder: 'dc=harbour,dc=example' },
  { name: 'bindAs', label: 'Read as', placeholder: 'cn=reader,dc=harbour,dc=example' },
] as const;

/** Thirty-two bytes that nobody guesses. */
const newToken = (): string =>
  [...crypto.getRandomValues(new Uint8Array(32))].map((byte) => byte.toString(16).padStart(2, '0')).join('');

/** How the reading stands, and what may be asked of it. @param tried undefined: nothing may be */
function Reading({
  code,
  link,
  tried,
  onTake,
}: {
  readonly code: string;
  readonly link: LinkData;
  readonly tried: LinkTry | undefined;
  readonly onTake: (agree: string | null) => void;
}) {
  const isAtWork = link.state === 'asked' || link.state === 'reading' || link.state === 'taking';
  const moves = tried ? tried.added + tried.changed + tried.returned + tried.left : 0;
  return (
    <div className={styles.take} role="status">
      {isAtWork && (
        <p className={styles.done}>
          <Chip tone="busy">{link.state === 'asked' ? 'will be read at once' : link.state}</Chip> {link.says}
        </p>
      )}
      {link.state === 'stopped' && (
        <div className={styles.stopped}>
          <p>
            <Chip tone="bad">stopped</Chip> {link.says}
          </p>
          {tried && link.leaving !== null && (
            <Button kind="danger" onPress={() => onTake(link.leaving)}>
              Let them go, and take in the rest for {code}
            </Button>
          )}
        </div>
      )}
      {link.state === 'linked' && link.says !== '' && link.bad.length === 0 && (
        <p className={styles.quiet}>{link.says}</p>
      )}
      {tried && !isAtWork && link.leaving === null && (
        <Button
          kind="main"
          icon={<BookUser size={16} aria-hidden="true" />}
          isDisabled={!tried.fits || (link.readAt === null && tried.people === 0)}
          onPress={() => onTake(null)}
        >
          {link.readAt === null
            ? `Take ${count(tried.people, 'person', 'people')} in for ${code}, and follow it`
            : moves === 0
              ? 'Read it again now'
              : `Take ${count(moves, 'change', 'changes')} in for ${code} now`}
        </Button>
      )}
      {link.readAt !== null && link.state === 'linked' && (
        <p className={styles.done}>
          <Check size={16} aria-hidden="true" /> Followed: read again every minute.{' '}
          <ButtonLink kind="quiet" href={`/customers/${code}/people`}>
            People and groups
          </ButtonLink>
        </p>
      )}
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
  readonly all: readonly { readonly value: string; readonly name: string }[];
  readonly chosen: readonly string[];
  readonly onChange: (chosen: readonly string[]) => void;
}) {
  // What was chosen once and is no more in it can be taken out still.
  const gone = chosen.filter((one) => !all.some(({ value }) => value === one));
  if (all.length === 0 && gone.length === 0) return null;
  return (
    <ManyField
      label={title}
      help="none pressed in either: everyone"
      options={[...all, ...gone.map((name) => ({ value: name, name: `${name} · not there` }))]}
      chosen={chosen}
      onChange={onChange}
    />
  );
}

/** Everyone in the directory: who would come, and why the others would not. Drawn before it is known, too. */
function Coming({ tried }: { readonly tried: LinkTry | undefined }) {
  const stays = tried && tried.people - tried.added - tried.returned;
  const arcs = [
    { look: 'full' as const, parts: stays ?? 0, fill: 1 },
    { look: 'notched' as const, parts: (tried?.added ?? 0) + (tried?.returned ?? 0), fill: 1 },
    { look: 'hollow' as const, parts: tried?.left ?? 0, fill: 0 },
    { look: 'dashed' as const, parts: tried?.outside ?? 0, fill: 0 },
    { look: 'crossed' as const, parts: tried?.unfit ?? 0, fill: 0 },
  ].filter(({ parts }) => parts > 0);
  return (
    <>
      <div className={styles.who}>
        <Ring size={148} label="" arcs={arcs} unit="would be here">
          {tried ? writeFigure(tried.people) : '–'}
        </Ring>
        <Figures>
          <Figure value={tried?.added ?? '–'} label="would come" />
          <Figure value={tried?.left ?? '–'} label="would leave" />
          <Figure value={tried?.changed ?? '–'} label="would change" />
          <Figure value={tried?.returned ?? '–'} label="would be back" />
          <Figure value={tried?.outside ?? '–'} label="outside the scope" />
          <Figure value={tried?.disabled ?? '–'} label="switched off there" />
        </Figures>
      </div>
      {tried && <p className={styles.quiet}>{tried.says}</p>}
      {tried && tried.left > 0 && (
        <p className={styles.quiet}>
          Would leave: {tried.leaving.join(', ')}
          {tried.left > tried.leaving.length && ` and ${tried.left - tried.leaving.length} more`}
        </p>
      )}
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
      <Bad says={count(tried.unfit, 'cannot be taken in', 'cannot be taken in')} bad={tried.bad} />
    </>
  );
}

/** Who cannot be taken in, each with the reason. */
function Bad({ says, bad }: { readonly says: string; readonly bad: readonly string[] }) {
  if (bad.length === 0) return null;
  return (
    <div className={styles.bad}>
      <b>{says}</b>
      <ul>
        {bad.map((one) => (
          <li key={one}>{one}</li>
        ))}
      </ul>
    </div>
  );
}

interface Tried {
  readonly tried: LinkTry | undefined;
  /** Whether it is being read, which takes a while where there are many thousands. */
  readonly isTrying: boolean;
  /** What is wrong, beside the fields. */
  readonly faults: Readonly<Record<string, string>>;
}

const UNTRIED: Tried = { tried: undefined, isTrying: false, faults: {} };

/** What came of trying it, once typing rests. @param asked undefined: there is nothing to try yet */
function useTry(code: string, asked: string | undefined): Tried {
  const [tried, setTried] = useState(UNTRIED);
  useEffect(() => {
    let ended = false;
    const timer = setTimeout(() => {
      if (asked === undefined) {
        setTried(UNTRIED);
        return;
      }
      setTried((before) => ({ ...before, isTrying: true }));
      const { sent: body } = JSON.parse(asked) as { readonly sent: SentLink };
      send('POST', '/customers/{customer}/directory/tried', { customer: code }, { body }).then(
        (answer) => {
          if (!ended) setTried({ ...UNTRIED, tried: answer });
        },
        (error: unknown) => {
          if (!ended) setTried({ ...UNTRIED, faults: error instanceof ApiProblem ? error.fields : {} });
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
