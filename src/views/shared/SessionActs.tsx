import type { Session, SessionProgram } from '../../contract';
import { LogOut, MessageSquare, MoveRight, Unplug } from 'lucide-react';
import { lazy, Suspense, useState, type ReactNode } from 'react';
import type { SessionActKey } from '../../core/session-acts';
import { Button } from '../../ui/Button';
import { mayMove, type Moving } from './moving';
import { Programs } from './Programs';

// What opens over a page comes when it is opened.
const ActDialog = lazy(() => import('./ActDialog'));
const MoveOff = lazy(() => import('./MoveOff'));

interface Acting {
  readonly act: SessionActKey;
  readonly sessions: readonly Session[];
  readonly program?: SessionProgram | undefined;
  readonly done?: (() => void) | undefined;
  /** What they read at first. */
  readonly says?: string | undefined;
}

/** What can be done with sessions on a page that shows some: the dialog of it, and what one of them runs. */
export interface SessionActs {
  /** Undefined: they may not. */
  readonly begin: ((acting: Acting) => void) | undefined;
  /** Has those who are in come to other hosts: theirs are drained, then they are asked to sign in again. */
  readonly move: ((sessions: readonly Session[], done?: () => void) => void) | undefined;
  readonly show: ((session: Session) => void) | undefined;
  /** What the session runs that is shown; null: none is. */
  readonly programs: ReactNode;
  readonly dialog: ReactNode;
}

/** Who is in: for who may look at what runs in their session, it opens that. */
export function PersonButton({
  session,
  className,
  onShow,
}: {
  readonly session: Session;
  readonly className: string | undefined;
  readonly onShow: SessionActs['show'];
}) {
  const name = session.person ?? session.account;
  if (!onShow) return name;
  return (
    <button type="button" className={className} onClick={() => onShow(session)}>
      {name}
    </button>
  );
}

export function useSessionActs(mayChange: boolean): SessionActs {
  const [acting, setActing] = useState<Acting>();
  const [moving, setMoving] = useState<Moving>();
  const [shown, setShown] = useState<Session>();
  const [round, setRound] = useState(0);
  return {
    begin: mayChange ? setActing : undefined,
    move: mayChange ? (sessions, done) => setMoving({ sessions, done }) : undefined,
    show: mayChange ? setShown : undefined,
    programs: shown ? (
      <Programs
        key={`${shown.provider} ${shown.id}`}
        session={shown}
        round={round}
        onClose={() => setShown(undefined)}
        onEnd={
          mayChange ? (program) => setActing({ act: 'end-program', sessions: [shown], program }) : undefined
        }
      />
    ) : null,
    dialog: moving ? (
      <Suspense>
        <MoveOff
          moving={moving}
          onClose={() => setMoving(undefined)}
          onDrained={() => {
            setMoving(undefined);
            setActing({ act: 'sign-out', ...moving, says: COME_AGAIN });
          }}
        />
      </Suspense>
    ) : acting ? (
      <Suspense>
        <ActDialog
          act={acting.act}
          sessions={acting.sessions}
          program={acting.program}
          says={acting.says}
          onClose={() => setActing(undefined)}
          onDone={() => {
            acting.done?.();
            setActing(undefined);
            setRound((before) => before + 1);
          }}
        />
      </Suspense>
    ) : null,
  };
}

const COME_AGAIN = 'Please save your work, sign out, and sign in again: you come to another host.';

const ACTS = [
  { act: 'message', verb: 'Message', icon: MessageSquare },
  { act: 'disconnect', verb: 'Disconnect', icon: Unplug },
  { act: 'sign-out', verb: 'Sign them out', icon: LogOut },
] as const;

/** The acts that are done most with those that are chosen. */
export function SessionActButtons({
  sessions,
  begin,
  move,
  done,
}: {
  readonly sessions: readonly Session[];
  readonly begin: (acting: Acting) => void;
  /** Left out: nobody is moved off from here. */
  readonly move?: SessionActs['move'];
  readonly done?: (() => void) | undefined;
}) {
  return (
    <>
      {ACTS.map(({ act, verb, icon: Icon }) => (
        <Button
          key={act}
          icon={<Icon size={16} aria-hidden="true" />}
          onPress={() => begin({ act, sessions, done })}
        >
          {verb}
        </Button>
      ))}
      {move && mayMove(sessions) && (
        <Button icon={<MoveRight size={16} aria-hidden="true" />} onPress={() => move(sessions, done)}>
          Move them off
        </Button>
      )}
    </>
  );
}
