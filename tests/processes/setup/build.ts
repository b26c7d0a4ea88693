import { needBuild } from '../../../scripts/lib.mjs';

/** The processes are never older ones. */
export default needBuild;
