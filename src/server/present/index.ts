export { readFeed } from './feed';
export { readSessionChanges, readSessions, renameSessions } from './sessions';
