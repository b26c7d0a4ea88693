import { proposalBench } from './proposal';
import { ratingBench } from './rating';
import { openBench } from './world';

/*
 * Run as a program by ./laager bench, in two parts: `prepare` makes the fleet and measures what needs no web server;
 * the web's and the worker's part is in scripts/bench.mjs.
 */

const app = await openBench();
try {
  proposalBench();
  await ratingBench(app);
} finally {
  await app.db.close();
}
