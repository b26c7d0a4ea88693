export { CredentialsRefused, NotAllowed, OutsideError, Unreachable, type Unreached } from './error';
export { certificateAt } from './certificate';
export { unreachedBy } from './unreached';
export { waitOutside, workTime } from './waiting';
export { accepted, boundedText, outsideHttp, understood, type OutsideReply, type Send } from './http';
export { inTime, LATE, SCREEN_MS } from './in-time';
