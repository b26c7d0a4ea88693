import type { Manifest } from '../manifest';
import { unpauseHosts } from '.';

export const overridesRoom: Manifest = {
  room: 'overrides',
  tables: ['host_override', 'paused_host'],
  alsoWrites: {
    environment: 'until when its overrides are to be looked at',
  },
  ends: unpauseHosts,
};
