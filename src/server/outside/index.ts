export { CredentialsRefused, OutsideError } from './error';
export { workTime } from './waiting';
export { accepted, outsideHttp, understood, type OutsideReply, type Send } from './http';
