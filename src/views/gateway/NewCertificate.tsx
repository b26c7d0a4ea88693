import { useEffect, useState } from 'react';
import { Check, FileKey, X } from 'lucide-react';
import type { ReadCertificate } from '../../contract';
import { newKey, send, whyOf } from '../../client/api';
import { count, writeDay } from '../../client/format';
import { Button } from '../../ui/Button';
import { LongField, TextField } from '../../ui/Field';
import { Panel } from '../../ui/Panel';
import styles from './Gateway.module.css';
import { WhyField } from '../shared/WhyField';

interface Props {
  readonly code: string;
  readonly zone: string;
  readonly onKept: () => void;
}

interface Sent {
  readonly pem: string;
  readonly pkcs12: string;
  readonly password: string;
}
const NOTHING: Sent = { pem: '', pkcs12: '', password: '' };
const TYPING_MS = 300;
const CHUNK = 0x8000;

async function base64Of(file: File): Promise<string> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  let text = '';
  for (let at = 0; at < bytes.length; at += CHUNK)
    text += String.fromCharCode(...bytes.subarray(at, at + CHUNK));
  return btoa(text);
}

/** What is given is read as it is given; it is kept only when somebody says so, and served only after that. */
export function NewCertificate({ code, zone, onKept }: Props) {
  const [sent, setSent] = useState<Sent>(NOTHING);
  const [file, setFile] = useState('');
  const [reason, setReason] = useState('');
  const [problem, setProblem] = useState<string>();
  const { read, trouble } = useReading(code, sent);
  const faults = read?.faults ?? {};
  const isGood = Boolean(read?.found) && Object.keys(faults).length === 0;
  const clear = (): void => {
    setSent(NOTHING);
    setFile('');
    setReason('');
  };
  const keep = async (): Promise<void> => {
    setProblem(undefined);
    try {
      await send(
        'POST',
        '/customers/{customer}/certificates',
        { customer: code },
        { body: { ...sent, reason }, key: newKey() },
      );
      clear();
      onKept();
    } catch (error) {
      setProblem(whyOf(error));
    }
  };
  return (
    <Panel title="A new certificate">
      <div className={styles.fresh}>
        <div className={styles.form}>
          <LongField
            label="As text (PEM): the certificate, those that signed it, and its key"
            rows={7}
            spellCheck={false}
            autoComplete="off"
            mono
            placeholder="-----BEGIN CERTIFICATE-----"
            value={sent.pem}
            disabled={sent.pkcs12 !== ''}
            onChange={(event) => setSent({ ...NOTHING, pem: event.target.value })}
            error={faults.pem}
          />
          <div className={styles.pair}>
            <TextField
              label="Or as a file (PKCS #12)"
              type="file"
              accept=".p12,.pfx"
              key={file === '' ? 'none' : 'one'}
              onChange={(event) => {
                const chosen = event.target.files?.[0];
                if (!chosen) return;
                setFile(chosen.name);
                void base64Of(chosen).then((pkcs12) => setSent({ ...sent, pem: '', pkcs12 }));
              }}
              error={faults.pkcs12}
            />
            <TextField
              label="Its password"
              type="password"
              autoComplete="off"
              value={sent.password}
              onChange={(event) => setSent({ ...sent, password: event.target.value })}
              error={faults.password}
            />
          </div>
          {file !== '' && (
            <p className={styles.file}>
              <FileKey size={15} aria-hidden="true" /> {file}
              <Button kind="quiet" icon={<X size={14} aria-hidden="true" />} onPress={clear}>
                Not this one
              </Button>
            </p>
          )}
        </div>
        <div className={styles.found} aria-live="polite">
          {read?.found ? (
            <Found found={read.found} days={read.days} zone={zone} />
          ) : (
            <p className={styles.quiet}>
              What it says of itself is read here, before anything is kept. The key is sealed, and told to
              nobody.
            </p>
          )}
          {isGood && (
            <>
              <WhyField value={reason} onChange={setReason} />
              <Button kind="main" icon={<Check size={16} aria-hidden="true" />} onPress={() => void keep()}>
                Keep it for {code}
              </Button>
            </>
          )}
          {(problem ?? trouble) !== undefined && (
            <p role="alert" className={styles.problem}>
              {problem ?? trouble}
            </p>
          )}
        </div>
      </div>
    </Panel>
  );
}

/** What is given, read once typing rests. */
function useReading(
  code: string,
  sent: Sent,
): { readonly read: ReadCertificate | undefined; readonly trouble: string | undefined } {
  const [read, setRead] = useState<ReadCertificate>();
  const [trouble, setTrouble] = useState<string>();
  const asked = JSON.stringify(sent);
  useEffect(() => {
    let ended = false;
    const body = JSON.parse(asked) as Sent;
    const timer = setTimeout(() => {
      if (body.pem.trim() === '' && body.pkcs12 === '') {
        setRead(undefined);
        return;
      }
      send('POST', '/customers/{customer}/certificates/reading', { customer: code }, { body }).then(
        (answer) => {
          if (ended) return;
          setRead(answer);
          setTrouble(undefined);
        },
        (error: unknown) => {
          if (!ended) setTrouble(whyOf(error));
        },
      );
    }, TYPING_MS);
    return () => {
      ended = true;
      clearTimeout(timer);
    };
  }, [asked, code]);
  return { read, trouble };
}

function Found({
  found,
  days,
  zone,
}: {
  readonly found: NonNullable<ReadCertificate['found']>;
  readonly days: number | null;
  readonly zone: string;
}) {
  return (
    <dl className={styles.facts}>
      <dt>Names</dt>
      <dd className="mono">{found.names.join(', ') || 'none'}</dd>
      <dt>Holds</dt>
      <dd>
        {writeDay(found.from, zone)} to {writeDay(found.until, zone)}
        {days !== null && days >= 0 && `, ${count(days, 'day', 'days')} from today`}
      </dd>
      <dt>Signed by</dt>
      <dd>{[found.issuer, ...found.chain.slice(1)].join(' › ')}</dd>
      <dt>SHA-256</dt>
      <dd className="mono">{found.fingerprint.slice(0, 16)} …</dd>
    </dl>
  );
}
