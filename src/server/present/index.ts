export { readFeed } from './feed';
export { forgetPastSessions, forgetPersons } from './forget';
export { readSessionChanges, readSessions, renameSessions } from './sessions';
