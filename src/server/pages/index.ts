export { signInByForm, signOutByForm } from './form';
export { ownPath } from '../sign-in';
export { health, type Health } from './health';
export { firstPage, OUR_OWN, unlessMissing, visit, visitCustomer } from './visit';
export { answerPush } from './push';
