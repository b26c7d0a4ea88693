export { readSigns } from './follow';
export { CLOSED_BY_SIGN, forgetSigns, gatheredSigns, signsOfHost } from './read';
