import type { Desk } from '../../contract';
import type { Crossing, OwnAct } from '../../core/intent';

/** What may cross between a session and where one sits, in words that anybody understands. */
export const CROSSING_WORDS: Readonly<Record<Crossing, string>> = {
  clipboard: 'copy and paste',
  printers: 'printers',
  drives: 'files',
  usb: 'USB devices',
  microphone: 'microphone',
};

export const OWN_WORDS: Readonly<Record<Desk['own'][number]['state'], string>> = {
  on: 'on',
  off: 'asleep',
  starting: 'starting',
  stopping: 'going to sleep',
  restarting: 'restarting',
  unwell: 'not well: whoever looks after it knows',
};

/** What can be done from one's desk with a desktop of one's own. */
export const OWN_ACT_WORDS: Partial<Readonly<Record<OwnAct, string>>> = {
  start: 'Start it',
  restart: 'Restart it',
  sleep: 'Put it to sleep',
};
