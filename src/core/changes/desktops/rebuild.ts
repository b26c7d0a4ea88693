import Joi from 'joi';
import { patchHost } from '../../intent';
import { defineChange, passes, warns } from '../../planning';
import { ok } from '../../result';
import { hostIds, hostsById, withHosts } from '../common';
import { desktopsById, desktopsSay, DRAIN, keysOf } from './common';

interface Desktops {
  /** Ids of their hosts. */
  readonly hosts: readonly string[];
}

/** Makes desktops anew of their image; the disks of their people stay, and are attached again. */
export const rebuildDesktops = defineChange<Desktops>({
  kind: 'rebuild-desktops',
  subject: 'environment',
  of: 'customers',
  verb: 'Rebuild desktops',
  input: Joi.object<Desktops>({ hosts: hostIds.required() }),
  right: 'build',
  confirm: 'press',
  touches: ['ready'],
  destroys: true,
  undo: 'none',
  title: ({ hosts }, facts) => {
    const found = desktopsById(facts.environment?.intent ?? null, facts, hosts);
    return `Rebuild ${found.ok ? desktopsSay(found.value.desktops) : 'desktops'}`;
  },
  edit: (intent, { hosts }, facts) => {
    const found = desktopsById(intent, facts, hosts);
    if (!found.ok) return found;
    return ok(
      withHosts(
        found.value.intent,
        keysOf(found.value.desktops),
        // Made anew it is made of its image, whatever it came of.
        (host) => patchHost(host, { ready: undefined }),
      ),
    );
  },
  asks: ({ hosts }, facts) => (hostsById(facts, hosts) ?? []).map(({ key }) => ({ key, ask: 'rebuild' })),
  policy: ({ hosts }) => ({
    atATime: 5,
    failureLimit: 1,
    waves: Math.max(1, Math.ceil(hosts.length / 2)),
    drain: DRAIN,
  }),
  checks: (_edited, { hosts }, facts) => {
    const found = desktopsById(facts.environment?.intent ?? null, facts, hosts);
    if (!found.ok) return [];
    const without = found.value.desktops.filter(({ pool }) => pool.ownDiskGiB === 0);
    return [
      without.length > 0
        ? warns(
            'data',
            'Data',
            'they have no disk of their own: what is on the host is lost',
            'Have it saved first.',
          )
        : passes('data', 'Data', 'the disks of their people stay'),
    ];
  },
});
