import type { LookAlongTold, Session } from '../../contract';
import { useEffect, useState } from 'react';
import { Eye, EyeOff, ScreenShare } from 'lucide-react';
import { get, newKey, send, whyOf } from '../../client/api';
import { Button, ButtonLink } from '../../ui/Button';
import { Chip, type ChipTone } from '../../ui/Chip';
import styles from './LookAlong.module.css';
import { WhyField } from './WhyField';

const TONES: Readonly<Record<LookAlongTold['state'], ChipTone>> = {
  asked: 'busy',
  looking: 'good',
  refused: 'bad',
  unanswered: 'care',
  over: 'quiet',
};
const ASK_AGAIN_MS = 2_000;

const isOpen = (look: LookAlongTold | undefined): boolean =>
  look?.state === 'asked' || look?.state === 'looking';

/** Looking along with somebody who has called: asked in their session, seen by them all the time, ended by either. */
export function LookAlong({ session }: { readonly session: Session }) {
  const [look, setLook] = useState<LookAlongTold>();
  const [reason, setReason] = useState('');
  const [problem, setProblem] = useState<string>();
  const { customer, provider, id } = session;
  const place = { customer, provider, session: id };
  const open = isOpen(look) ? look?.id : undefined;
  useEffect(() => {
    if (open === undefined) return undefined;
    let ended = false;
    const timer = setInterval(() => {
      get('/customers/{customer}/sessions/{provider}/{session}/look-along/{look}', {
        customer,
        provider,
        session: id,
        look: open,
      }).then(
        (told) => {
          if (!ended) setLook(told);
        },
        (error: unknown) => {
          if (!ended) setProblem(whyOf(error));
        },
      );
    }, ASK_AGAIN_MS);
    return () => {
      ended = true;
      clearInterval(timer);
    };
  }, [open, customer, provider, id]);
  const doing = (work: Promise<LookAlongTold | undefined>): void => {
    setProblem(undefined);
    work.then(setLook, (error: unknown) => setProblem(whyOf(error)));
  };
  return (
    <div className={styles.look} role="status">
      {open === undefined ? (
        <>
          <WhyField label="Look along, and why" value={reason} onChange={setReason} />
          <Button
            icon={<Eye size={16} aria-hidden="true" />}
            onPress={() =>
              doing(
                send('POST', '/customers/{customer}/sessions/{provider}/{session}/look-along', place, {
                  body: { reason },
                  key: newKey(),
                }),
              )
            }
          >
            Ask {session.person ?? session.account} of {customer}
          </Button>
        </>
      ) : (
        <>
          {look?.state === 'looking' && look.address !== null && (
            <ButtonLink
              kind="main"
              href={look.address}
              newTab
              icon={<ScreenShare size={16} aria-hidden="true" />}
            >
              See their screen
            </ButtonLink>
          )}
          <Button
            icon={<EyeOff size={16} aria-hidden="true" />}
            onPress={() =>
              doing(
                send(
                  'DELETE',
                  '/customers/{customer}/sessions/{provider}/{session}/look-along/{look}',
                  { ...place, look: open },
                  { key: newKey() },
                ).then(() => undefined),
              )
            }
          >
            {look?.state === 'looking' ? 'Stop looking along' : 'Ask no more'}
          </Button>
        </>
      )}
      {look && (
        <p>
          <Chip tone={TONES[look.state]}>{look.says}</Chip>
        </p>
      )}
      {problem !== undefined && (
        <p role="alert" className={styles.problem}>
          {problem}
        </p>
      )}
    </div>
  );
}
