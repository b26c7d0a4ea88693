import type { Manifest } from '../manifest';
import { forgetPastSessions, forgetPersons } from '.';
import { feedJob, sessionsJob } from './jobs';

export const presentRoom: Manifest = {
  room: 'present',
  tables: ['present_resource', 'session', 'session_past'],
  jobs: [feedJob, sessionsJob],
  sweeps: [forgetPastSessions],
  forgets: forgetPersons,
};
