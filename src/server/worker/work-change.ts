import type { App } from '../app';
import { ProviderTrouble } from '../provider';
import { refOf, type Job } from './job';
import { ask, done, type Progress, type Work } from './progress';

type ChangeKind = 'power-on' | 'power-off' | 'drain' | 'accept';

async function hostRef(app: App, job: Job): Promise<string> {
  const ref = await refOf(app.db, job.scope, 'host', job.wantedId);
  if (ref === undefined) throw new ProviderTrouble(`${job.subject} was never made`, true);
  return ref;
}

const power =
  (state: 'on' | 'off'): Work =>
  async (app, job): Promise<Progress> => {
    const ref = await hostRef(app, job);
    if ((await app.provider.resource(ref))?.state === state) return done(`is ${state} already`);
    return ask(app, job, { do: 'power', ref, power: state });
  };

const accepting =
  (open: boolean): Work =>
  async (app, job) => {
    await app.provider.change(await hostRef(app, job), { accepting: open });
    return done(open ? 'takes people again' : 'takes nobody new');
  };

export const changeWork: Readonly<Record<ChangeKind, Work>> = {
  'power-on': power('on'),
  'power-off': power('off'),
  drain: accepting(false),
  accept: accepting(true),
};
