export { forgetSizing, readNeeds } from './needs';
export { notePeaks } from './peaks';
export { readSizing } from './read';
