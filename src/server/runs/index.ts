export { createRun, type NewRun, type RunStep } from './create';
export { countUnderWay, listRuns, getRun, runsDone, runsUnderWay } from './read';
export { stopRun, resumeRun } from './control';
export { countSteps } from './counts';
export { forgetWhose } from './forget';
export { durationsAt, learnDurations } from './durations';
export { overtakeStopped } from './overtake';
export { endRunsOf, noteStanding } from './end';
export { ASKED_FOR, UNSETTLED } from './unsettled';
