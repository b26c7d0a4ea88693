import type { WholeCustomer } from '../../contract';

/** What is filled in for a customer: numbers and pairs as their fields have them. */
export interface CustomerFields {
  code: string;
  name: string;
  state: 'active' | 'trial';
  plan: string;
  site: string;
  zone: string;
  currency: string;
  card: string;
  contacts: { name: string; mail: string; phone: string; what: string }[];
  country: string;
  region: string;
  days: { date: string; name: string }[];
  tags: { tag: string; value: string }[];
  naming: string;
  nameServers: string;
  blockPrefix: string;
  gatewayName: string;
  administrator: string;
  reason: string;
}

export const NO_FIELDS: CustomerFields = {
  code: '',
  name: '',
  state: 'active',
  plan: '',
  site: '',
  zone: '',
  currency: '',
  card: '',
  contacts: [],
  country: '',
  region: '',
  days: [],
  tags: [],
  naming: '',
  nameServers: '',
  blockPrefix: '20',
  gatewayName: '',
  administrator: '',
  reason: '',
};

export const fieldsOf = (customer: WholeCustomer): CustomerFields => ({
  ...NO_FIELDS,
  code: customer.code,
  name: customer.name,
  state: customer.state === 'trial' ? 'trial' : 'active',
  plan: customer.plan,
  site: customer.site,
  zone: customer.zone,
  currency: customer.currency,
  card: customer.card,
  contacts: customer.contacts.map((one) => ({ ...one })),
  country: customer.calendar.country,
  region: customer.calendar.region,
  days: customer.calendar.days.map((one) => ({ ...one })),
  tags: Object.entries(customer.tags).map(([tag, value]) => ({ tag, value })),
  naming: customer.naming,
  nameServers: customer.nameServers.join(', '),
  blockPrefix: String(customer.blockPrefix),
  gatewayName: customer.gatewayName,
  administrator: customer.administrator,
});

/** What may be copied of another customer. Addresses, people and who they are may not. */
export const likeAnother = (customer: WholeCustomer, own: CustomerFields): CustomerFields => ({
  ...fieldsOf(customer),
  code: own.code,
  name: own.name,
  contacts: own.contacts,
  nameServers: own.nameServers,
  gatewayName: own.gatewayName,
  administrator: own.administrator,
});

/** What is sent for what is filled in; its parts bear the names that the API answers by. */
export const sentFor = (fields: CustomerFields): object => {
  const { country, region, days, tags, nameServers, blockPrefix, reason: _reason, ...rest } = fields;
  return {
    ...rest,
    calendar: { country: country.trim().toUpperCase(), region: region.trim().toUpperCase(), days },
    tags: Object.fromEntries(
      tags.filter(({ tag }) => tag !== '').map(({ tag, value }) => [tag.trim(), value]),
    ),
    nameServers: nameServers.split(/[\s,]+/).filter((one) => one !== ''),
    blockPrefix: Number(blockPrefix),
  };
};

/** The form's field for a part as the API names it: `calendar.country` is `country` here. */
export const fieldFor = (path: string): string =>
  path
    .replace(/^calendar\./, '')
    .replace(/^nameServers\..*/, 'nameServers')
    .replace(/^tags\..*/, 'tags');
