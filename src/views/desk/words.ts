import type { Desk } from '../../contract';
import type { Crossing, OwnAct, Screen } from '../../core/intent';

/** What may cross between a session and where one sits, in words that anybody understands. */
export const CROSSING_WORDS: Readonly<Record<Crossing, string>> = {
  clipboard: 'copy and paste',
  printers: 'printers',
  drives: 'files',
  usb: 'USB devices',
  microphone: 'microphone',
};

/** How large something is shown. */
export const SCREEN_WORDS: Readonly<Record<Screen, string>> = {
  'as the window': 'as large as its window',
  'every screen': 'over every screen',
  '1280 × 800': '1280 × 800',
  '1600 × 900': '1600 × 900',
  '1920 × 1080': '1920 × 1080',
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
