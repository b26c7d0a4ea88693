import { openProcess } from '../src/main/app';
import { addressBench } from './addresses';
import { peopleBench } from './people';
import { buildBench } from './build';
import { proposalBench } from './proposal';
import { ratingBench } from './rating';

/** Run as a program by ./laager bench, on a fleet that is loaded: what needs no web server. Prints a line for each figure. */
const { app, close } = await openProcess('bench');
try {
  addressBench();
  peopleBench();
  proposalBench();
  buildBench();
  await ratingBench(app);
} finally {
  await close();
}
