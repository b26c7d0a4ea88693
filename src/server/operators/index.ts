export { hashOf } from './hash';
export { normalMail } from './mail';
export { keepPassword, resetPassword } from './password';
export { listOperators, operatorOf } from './read';
export { acceptInvite, createOperator, inviteOf } from './invite';
export { refuseBeyond } from './reach';
export { changeOperator } from './change';
