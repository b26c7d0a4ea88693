import type { Host } from '../../contract';
import { History, Power, PowerOff, RotateCw, Undo2, UserX, Wrench } from 'lucide-react';
import { count } from '../../client/format';
import type { ChangeField, Changing } from './changing';

/** A change of hosts that are chosen, and for which of them it makes sense. */
interface HostChange {
  readonly kind: string;
  readonly verb: string;
  readonly icon: typeof Power;
  readonly fits: (host: Host) => boolean;
  /** Whether it takes something from those who are in. */
  readonly danger?: true;
  /** What can be chosen with it. */
  readonly field?: ChangeField;
  /** Whether it may end by itself. */
  readonly ends?: true;
}

const isOn = ({ wantedPower }: Host): boolean => wantedPower === 'on';
const inMaintenance = ({ wantedPower, wantedAccepting }: Host): boolean =>
  wantedPower === 'off' && !wantedAccepting;

/** A picture is kept, and paid for, until somebody takes the host back. */
const keepsPicture = ({ overrides }: Host): boolean =>
  overrides.some(({ attribute }) => attribute === 'picture');

export const HOST_CHANGES: readonly HostChange[] = [
  {
    kind: 'end-maintenance',
    verb: 'Take back',
    icon: Undo2,
    fits: (host) => inMaintenance(host) || keepsPicture(host),
  },
  { kind: 'power-on', verb: 'Power on', icon: Power, fits: (host) => !isOn(host) && !inMaintenance(host) },
  {
    kind: 'drain',
    verb: 'Drain',
    icon: UserX,
    fits: (host) => isOn(host) && host.wantedAccepting,
    ends: true,
  },
  { kind: 'put-back', verb: 'Put back', icon: Undo2, fits: (host) => isOn(host) && !host.wantedAccepting },
  { kind: 'restart-hosts', verb: 'Restart', icon: RotateCw, fits: isOn },
  {
    kind: 'maintain-hosts',
    verb: 'Put in maintenance',
    icon: Wrench,
    fits: isOn,
    ends: true,
    field: {
      name: 'picture',
      label: 'Take a picture of each before',
      type: 'yes',
      help: 'to go back to; it is kept, and paid for like its disk, until the host is taken back',
    },
  },
  {
    kind: 'go-back-to-picture',
    verb: 'Go back to the picture',
    icon: History,
    fits: ({ pictured }) => pictured,
    danger: true,
  },
  { kind: 'power-off', verb: 'Power off', icon: PowerOff, fits: isOn, danger: true, ends: true },
];

/** One host by its name, several by their number. */
export const hostsSay = (hosts: readonly { readonly name: string }[]): string =>
  hosts.length === 1 ? (hosts[0]?.name ?? '') : count(hosts.length, 'host', 'hosts');

const untilField = (zone: string): ChangeField => ({
  name: 'until',
  label: 'Until (optional)',
  type: 'moment',
  zone,
  help: `by the clock of ${zone}; left empty: until it is removed`,
});

/** The change as its dialog takes it. */
export const changingHosts = (
  { kind, verb, danger, field, ends }: HostChange,
  hosts: readonly Host[],
  zone: string,
  done?: () => void,
): Changing => ({
  kind,
  verb,
  what: hostsSay(hosts),
  input: { hosts: hosts.map(({ id }) => id) },
  ...(field ? { field } : {}),
  ...(ends === true ? { more: [untilField(zone)] } : {}),
  danger: danger === true && hosts.some(({ sessions }) => sessions > 0),
  ...(done ? { done } : {}),
});
