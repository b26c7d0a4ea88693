import type { Manifest } from '../manifest';

export const meteringRoom: Manifest = {
  room: 'metering',
  tables: ['meter_interval'],
};
