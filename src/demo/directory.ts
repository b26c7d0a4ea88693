import { OVER_SCIM } from '../contract';
import type { CustomerScope } from '../server/access';
import type { App } from '../server/app';
import { keepIdentity } from '../server/desk';
import { askForReading, followDirectories, keepLink } from '../server/directory-link';
import { control } from './living';
import { peopleOf } from './people';
import { DIRECTORY_SECRET } from './scenario';

interface Part {
  /** Where its people stand. */
  readonly unit: string;
  /** Its group; so many of each hundred are in it. */
  readonly group: string;
  readonly share: number;
}

interface DemoDirectory {
  readonly parts: readonly Part[];
  /** Groups of groups. */
  readonly around: readonly {
    readonly name: string;
    readonly unit: string;
    readonly groups: readonly string[];
  }[];
  /** Which part of it is theirs here; undefined: it is not linked yet. */
  readonly scope?: { readonly units: readonly string[]; readonly groups: readonly string[] };
}

const part = (unit: string, group: string, share: number): Part => ({ unit, group, share });

const DIRECTORIES: Readonly<Record<string, DemoDirectory>> = {
  SVG: {
    parts: [
      part('People/Clinics/Ardle', 'Vets', 24),
      part('People/Clinics/Brae', 'Vets', 10),
      part('People/Clinics/Brae', 'Nurses', 22),
      part('People/Clinics/Corrie', 'Nurses', 16),
      part('People/Clinics/Dunmoor', 'Front desk', 16),
      part('People/Office', 'Office', 12),
    ],
    around: [
      { name: 'Clinical staff', unit: 'Groups', groups: ['Vets', 'Nurses'] },
      { name: 'Clinics', unit: 'Groups', groups: ['Clinical staff', 'Front desk'] },
      { name: 'All of Saltmirren', unit: 'Groups', groups: ['Clinics', 'Office'] },
      { name: 'Locum vets', unit: 'Partners/Locums', groups: [] },
    ],
    scope: { units: ['People', 'Groups'], groups: [] },
  },
  MHP: {
    parts: [
      part('Harbour/Watch A', 'Watch A', 28),
      part('Harbour/Watch B', 'Watch B', 28),
      part('Harbour/Watch C', 'Watch C', 26),
      part('Harbour/Office', 'Harbour office', 18),
    ],
    around: [
      { name: 'Pilots', unit: 'Harbour', groups: ['Watch A', 'Watch B', 'Watch C'] },
      { name: 'Harbour', unit: 'Harbour', groups: ['Pilots', 'Harbour office'] },
    ],
    scope: { units: ['Harbour'], groups: [] },
  },
  FPS: {
    parts: [
      part('Survey', 'Surveyors', 55),
      part('Drawing', 'Drawing office', 30),
      part('Office', 'Office', 15),
    ],
    around: [{ name: 'Technical', unit: 'Survey', groups: ['Surveyors', 'Drawing office'] }],
    scope: { units: [], groups: [] },
  },
};

const USUAL: DemoDirectory = {
  parts: [
    part('Rooms/North', 'Day shift', 45),
    part('Rooms/Quay', 'Late shift', 30),
    part('Office', 'Office', 25),
  ],
  around: [{ name: 'All staff', unit: '', groups: ['Day shift', 'Late shift', 'Office'] }],
};

/** In which part somebody is, by how many come before them. */
function partOf(parts: readonly Part[], n: number): Part {
  const [first = part('', 'Everyone', 100)] = parts;
  let reached = 0;
  const at = (n * 37) % 100;
  return parts.find(({ share }) => (reached += share) > at) ?? first;
}

/**
 * What the simulated directory of a customer holds. One that is linked knows just who is here, and two who are switched
 * off; one that is not knows a few more.
 */
export async function fillDirectory(code: string, count: number): Promise<void> {
  const realm = `${code.toLowerCase()}.example`;
  const { parts, around, scope } = DIRECTORIES[code] ?? USUAL;
  const here = count + (scope ? 0 : 5);
  const people = peopleOf(code, here + 2).map((one, n) => {
    const { unit, group } = partOf(parts, n);
    return { ...one, unit, groups: [group], disabled: n >= here };
  });
  const groups = parts.map(({ group, unit }) => ({
    name: group,
    unit: scope?.units.includes('Groups') ? 'Groups' : unit,
  }));
  await control(process.env.LAAGER_DIRECTORY_URL ?? '', 'PUT', `/control/realms/${realm}`, {
    token: DIRECTORY_SECRET,
    people,
    groups: [...groups, ...around],
  });
}

/** Links and takes in the directories of those who have one linked. */
export async function linkDirectory(app: App, scope: CustomerScope): Promise<void> {
  const part = DIRECTORIES[scope.customer.code]?.scope;
  if (!part) return;
  await keepLink(app, scope, {
    ...OVER_SCIM,
    secret: DIRECTORY_SECRET,
    ...part,
    reason: 'people and groups are theirs to keep',
  });
  await askForReading(app, scope, null);
  await followDirectories(app);
}

/** Whose people sign in with an identity service of their own; the service may be at another port at each start. */
export async function linkIdentity(app: App, scope: CustomerScope): Promise<void> {
  const { LAAGER_IDENTITY_ISSUER: issuer = '', IDENTITY_REALM_SECRET: secret = '' } = process.env;
  if (issuer === '' || secret === '') return;
  await keepIdentity(app, scope, {
    name: 'the Saltmirren sign-in',
    issuer: `${issuer}/realms/${scope.customer.code.toLowerCase()}.example`,
    client: process.env.LAAGER_IDENTITY_CLIENT ?? '',
    secret,
    knownBy: 'mail',
    onlyThere: false,
  });
}
