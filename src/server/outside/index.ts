export { OutsideError } from './error';
export { accepted, outsideHttp, understood, type OutsideReply, type Send } from './http';
