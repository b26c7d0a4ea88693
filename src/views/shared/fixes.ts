import type { Check } from '../../core/planning';
import { OWN_CODE } from '../../contract/own-code';

export interface Fix {
  readonly href: string;
  readonly says: string;
}

type Where = (check: Check, customer: string) => Fix | undefined;

/** The page where what a check found is mended, by the check. */
const WHERE: Readonly<Record<string, Where>> = {
  addresses: () => ({ href: '/ground/addresses', says: 'Addresses' }),
  capacity: () => ({ href: '/ground', says: 'Sites' }),
  certificate: (_check, code) => inside(code, 'gateway', 'Gateway'),
  credentials: () => ({ href: '/ground', says: 'Connections' }),
  'credentials there': () => ({ href: '/ground', says: 'Connections' }),
  customer: (_check, code) => inside(code, 'life', 'Their state'),
  directory: (_check, code) => inside(code, 'directory', 'Directory'),
  image: ({ of }) => {
    const [, line, number, site] = /^([^@ ]+)@(\d+) (\S+)$/.exec(of ?? '') ?? [];
    return line === undefined
      ? { href: '/build/images', says: 'Images' }
      : { href: `/build/images/${line}?copy=${number ?? ''}&to=${site ?? ''}`, says: 'Copy it…' };
  },
  'name-servers': (_check, code) => inside(code, 'about', 'Name servers'),
  names: (_check, code) => inside(code, 'about', 'Naming rule'),
  people: (_check, code) => inside(code, 'people', 'People'),
  plan: (_check, code) => inside(code, 'plan', 'Plan'),
  rates: () => ({ href: '/money/prices', says: 'Prices' }),
  route: () => ({ href: '/ground/networks', says: 'Networks' }),
};

const inside = (code: string, page: string, says: string): Fix | undefined =>
  code === OWN_CODE ? undefined : { href: `/customers/${code}/${page}`, says };

/** Where a check that does not pass is mended; undefined: it passes, or is mended where one is. */
export const fixOf = (check: Check, customer: string): Fix | undefined =>
  check.state === 'passes' ? undefined : WHERE[check.key]?.(check, customer);
