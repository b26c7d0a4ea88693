export { CredentialsRefused, NotAllowed, OutsideError, Unreachable, type Unreached } from './error';
export { workTime } from './waiting';
export { accepted, outsideHttp, understood, type OutsideReply, type Send } from './http';
