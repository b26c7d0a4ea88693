export { hashOf } from './hash';
export { normalMail } from './mail';
export { keepPassword, NOBODYS_PASSWORD, resetPassword } from './password';
export { keepGroupRules, listGroupRules, operatorByGroups } from './groups';
export { listOperators, mayStill, operatorOf } from './read';
export { acceptInvite, createOperator, invitedLately, inviteOf, mailInvites } from './invite';
export { isLead } from './leads';
export { reachToo, refuseBeyond } from './reach';
export { changeOperator } from './change';
