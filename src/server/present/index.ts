export { readFeed } from './feed';
export { readSessionChanges, readSessions } from './sessions';
