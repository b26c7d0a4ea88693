import Joi from 'joi';
import { patchHost, type HostPatch, type HostTouch } from '../intent';
import { defineChange, type Change } from '../planning';
import { ok, refuse } from '../result';
import { hostIds, hostsById, hostsSay, nameOf, withHosts } from './common';

interface HostsInput {
  /** Ids of hosts. */
  readonly hosts: readonly string[];
}

/** A change that wants something of hosts that they can be switched to. */
export const switching = (kind: string, verb: string, to: HostPatch): Change =>
  defineChange<HostsInput>({
    kind,
    subject: 'environment',
    verb,
    input: Joi.object<HostsInput>({ hosts: hostIds.required() }),
    roles: ['engineer', 'lead'],
    confirm: 'press',
    touches: Object.keys(to) as HostTouch[],
    undo: 'by difference',
    title: ({ hosts }, facts) => `${verb} ${hostsSay(hostsById(facts, hosts) ?? [])} of ${nameOf(facts)}`,
    edit: (intent, { hosts }, facts) => {
      const found = hostsById(facts, hosts);
      if (intent === null || !found)
        return refuse({ hosts: 'one of them is not a host of this environment' });
      const keys = new Set(found.map((one) => one.key));
      return ok(withHosts(intent, keys, (host) => patchHost(host, to)));
    },
    policy: ({ hosts }) => ({ atATime: 10, failureLimit: Math.max(1, Math.ceil(hosts.length / 2)) }),
  });

export const powerOn = switching('power-on', 'Power on', { power: 'on' });
export const powerOff = switching('power-off', 'Power off', { power: 'off' });
export const drain = switching('drain', 'Drain', { accepting: false });
export const putBack = switching('put-back', 'Put back', { accepting: true });
