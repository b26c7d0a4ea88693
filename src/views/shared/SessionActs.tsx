import type { Session, SessionProgram } from '../../contract';
import { LogOut, MessageSquare, Unplug } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import type { SessionActKey } from '../../core/session-acts';
import { Button } from '../../ui/Button';
import { ActDialog } from './ActDialog';
import { Programs } from './Programs';

interface Acting {
  readonly act: SessionActKey;
  readonly sessions: readonly Session[];
  readonly program?: SessionProgram | undefined;
  readonly done?: (() => void) | undefined;
}

/** What can be done with sessions on a page that shows some: the dialog of it, and what one of them runs. */
export interface SessionActs {
  /** Undefined: they may not. */
  readonly begin: ((acting: Acting) => void) | undefined;
  readonly show: (session: Session) => void;
  /** What the session runs that is shown; null: none is. */
  readonly programs: ReactNode;
  readonly dialog: ReactNode;
}

export function useSessionActs(mayChange: boolean): SessionActs {
  const [acting, setActing] = useState<Acting>();
  const [shown, setShown] = useState<Session>();
  const [round, setRound] = useState(0);
  return {
    begin: mayChange ? setActing : undefined,
    show: setShown,
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
    dialog: acting ? (
      <ActDialog
        act={acting.act}
        sessions={acting.sessions}
        program={acting.program}
        onClose={() => setActing(undefined)}
        onDone={() => {
          acting.done?.();
          setActing(undefined);
          setRound((before) => before + 1);
        }}
      />
    ) : null,
  };
}

const ACTS = [
  { act: 'message', verb: 'Message', icon: MessageSquare },
  { act: 'disconnect', verb: 'Disconnect', icon: Unplug },
  { act: 'sign-out', verb: 'Sign them out', icon: LogOut },
] as const;

/** The acts that are done most with those that are chosen. */
export function SessionActButtons({
  sessions,
  begin,
  done,
}: {
  readonly sessions: readonly Session[];
  readonly begin: (acting: Acting) => void;
  readonly done?: (() => void) | undefined;
}) {
  return ACTS.map(({ act, verb, icon: Icon }) => (
    <Button
      key={act}
      icon={<Icon size={16} aria-hidden="true" />}
      onPress={() => begin({ act, sessions, done })}
    >
      {verb}
    </Button>
  ));
}
