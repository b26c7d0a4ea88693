export { readAnew } from './anew';
export { readFeed } from './feed';
export { forgetPastSessions, forgetPersons } from './forget';
export { saidOf, standingInRecord } from './record';
export { readSessionChanges, readSessions, renameSessions } from './sessions';
