export { readAnew } from './anew';
export { readFeed } from './feed';
export { forgetPastSessions, forgetPersons } from './forget';
export { WHOSE_PAST, WHOSE_SESSION } from './whose';
export { saidOf, standingInRecord } from './record';
export { readSessionChanges, readSessions, renameSessions } from './sessions';
