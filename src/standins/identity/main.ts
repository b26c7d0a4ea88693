import { endWith } from '../kit/server';
import { folkOfDirectory } from './folk';
import { startIdentity } from './start';

/** Of the invented MSP; nobody real. */
const PEOPLE = [
  {
    id: 'sanne',
    name: 'Sanne Holt',
    mail: 'sanne@terntallow.example',
    verified: true,
    groups: ['desk'],
    amr: ['pwd', 'otp', 'mfa'],
  },
  {
    id: 'oskar',
    name: 'Oskar Lind',
    mail: 'oskar@terntallow.example',
    verified: true,
    groups: ['books'],
    amr: ['pwd', 'mfa'],
  },
  {
    id: 'visitor',
    name: 'A visitor',
    mail: 'visitor@terntallow.example',
    verified: true,
    groups: ['visitors'],
    amr: ['pwd'],
  },
];

const { server } = await startIdentity(
  Number(process.env.STANDIN_PORT ?? 4714),
  {
    id: process.env.LAAGER_IDENTITY_CLIENT ?? 'laager',
    secret: process.env.LAAGER_IDENTITY_SECRET ?? '',
    redirects: (process.env.IDENTITY_REDIRECTS ?? '').split(',').filter((one) => one !== ''),
  },
  PEOPLE,
  {
    client: {
      id: process.env.LAAGER_IDENTITY_CLIENT ?? 'laager',
      secret: process.env.IDENTITY_REALM_SECRET ?? '',
      redirects: (process.env.IDENTITY_REALM_REDIRECTS ?? '').split(',').filter((one) => one !== ''),
    },
    folkOf: (realm) =>
      folkOfDirectory(
        process.env.LAAGER_DIRECTORY_URL ?? '',
        realm,
        process.env.IDENTITY_DIRECTORY_TOKEN ?? '',
      ),
  },
);
endWith(server, async () => undefined);
