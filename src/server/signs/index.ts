export { readSigns } from './follow';
export { CLOSED_BY_SIGN, forgetSigns, gatheredSigns, openSigns, signsOfHost } from './read';
