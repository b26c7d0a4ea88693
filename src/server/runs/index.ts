export { createRun, type NewRun, type RunStep } from './create';
export { listRuns, getRun, runsDone, runsUnderWay, type RunRow, type RunView, type StepRow } from './read';
export { stopRun, resumeRun } from './control';
export { countSteps } from './counts';
export { UNSETTLED } from './unsettled';
