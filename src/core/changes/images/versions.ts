import Joi from 'joi';
import type { Facts } from '../../facts';
import { dropped, imageKey, intentOf, madeCurrent, withVersion, type ImageLine } from '../../images';
import { blocks, defineChange, mendedAt, passes, warns, type Check } from '../../planning';
import { ok, refuse } from '../../result';
import { hostsOn, isCaptured, ofVersion, titleOf, versionField, versionIn, type OfVersion } from './common';

const policy = { atATime: 3, failureLimit: 1 } as const;

/** Makes a version current: what is provisioned from now on stands on it. Going back is the same, with one that was kept. */
export const makeCurrent = defineChange<OfVersion>({
  kind: 'make-current',
  subject: 'environment',
  verb: 'Make current',
  input: ofVersion,
  right: 'build',
  confirm: 'press',
  undo: 'none',
  needs: ['image'],
  title: ({ version }, facts) => `Make ${titleOf(facts, version)} current`,
  edit: (intent, { version: number }, facts) => {
    const found = versionIn(intent, number);
    if (!found.ok) return found;
    const { line, version } = found.value;
    if (version.state === 'current') return refuse({ version: `${number} is current already` });
    return ok(intentOf(madeCurrent(line, number, (one) => hostsOn(facts, line, one) > 0)));
  },
  policy: () => policy,
  checks: (_edited, { version: number }, facts) => {
    const found = versionIn(facts.environment?.intent ?? null, number);
    return found.ok ? currentChecks(found.value.line, number, facts) : [];
  },
  people: () => 0,
});

function currentChecks(line: ImageLine, number: number, facts: Facts): Check[] {
  const version = line.versions.find((one) => one.number === number);
  const missing = (version?.sites ?? []).filter((site) => !isCaptured(facts, imageKey(number, site)));
  const tried = hostsOn(facts, line, number);
  return [
    missing.length > 0
      ? blocks('captured', 'Captured', `not yet at ${missing.join(', ')}`, 'Wait until its build has ended.')
      : passes('captured', 'Captured', `at ${(version?.sites ?? []).join(', ')}`),
    ...(version?.state === 'trial'
      ? [
          tried > 0
            ? passes('tried', 'Tried', `${tried === 1 ? '1 host stands' : `${tried} hosts stand`} on it`)
            : warns('tried', 'Tried', 'no host stands on it yet', 'Let a pilot pool try it first.'),
        ]
      : []),
  ];
}

/** Drops a version, everywhere; one that hosts stand on, or that is current, stays. */
export const dropVersion = defineChange<OfVersion>({
  kind: 'drop-version',
  subject: 'environment',
  verb: 'Drop',
  input: ofVersion,
  right: 'build',
  confirm: 'press',
  undo: 'none',
  needs: ['image'],
  title: ({ version }, facts) => `Drop ${titleOf(facts, version)}`,
  edit: (intent, { version: number }, facts) => {
    const found = versionIn(intent, number);
    if (!found.ok) return found;
    const { line, version } = found.value;
    if (version.state === 'current') return refuse({ version: 'make another one current first' });
    if (version.machine) return refuse({ version: 'is being built: take its machine away instead' });
    const hosts = hostsOn(facts, line, number);
    if (hosts > 0)
      return refuse({ version: `${hosts === 1 ? '1 host stands' : `${hosts} hosts stand`} on it` });
    return ok(intentOf(withVersion(line, number, dropped)));
  },
  policy: () => policy,
  people: () => 0,
});

interface CopyImage extends OfVersion {
  readonly site: string;
}

/** Copies a version to another site. */
export const copyImage = defineChange<CopyImage>({
  kind: 'copy-image',
  subject: 'environment',
  verb: 'Copy',
  input: Joi.object<CopyImage>({ version: versionField, site: Joi.string().max(16).required() }),
  right: 'build',
  confirm: 'press',
  undo: 'none',
  needs: ['image'],
  title: ({ version, site }, facts) => `Copy ${titleOf(facts, version)} to ${siteName(facts, site)}`,
  edit: (intent, { version: number, site }, facts) => {
    const found = versionIn(intent, number);
    if (!found.ok) return found;
    const { line, version } = found.value;
    if (!facts.image?.sites.some((one) => one.code === site)) return refuse({ site: 'is no site' });
    if (version.sites.includes(site)) return refuse({ site: `is at ${siteName(facts, site)} already` });
    if (!isCaptured(facts, imageKey(number, line.site)))
      return refuse({ version: 'is not captured yet: there is nothing to copy' });
    return ok(intentOf(withVersion(line, number, (one) => ({ ...one, sites: [...one.sites, site] }))));
  },
  policy: () => policy,
  checks: (_edited, { site }, facts): Check[] => {
    const found = facts.image?.sites.find((one) => one.code === site);
    if (!found || found.code === facts.site.code) return [];
    const title = `Credentials at ${found.name}`;
    return [
      found.signIn.worked
        ? passes('credentials there', title, found.signIn.says)
        : mendedAt(
            { of: 'everyone', page: 'ground', says: 'Connections' },
            blocks(
              'credentials there',
              title,
              found.signIn.says,
              'Mend the credentials of its provider under Ground.',
            ),
          ),
    ];
  },
  people: () => 0,
});

const siteName = ({ image }: Facts, code: string): string =>
  image?.sites.find((one) => one.code === code)?.name ?? code;
