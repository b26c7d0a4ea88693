export { readFeed } from './feed';
export { readSessions } from './sessions';
