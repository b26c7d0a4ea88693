export { readFeed } from './feed';
export { forgetPersons } from './forget';
export { readSessionChanges, readSessions, renameSessions } from './sessions';
