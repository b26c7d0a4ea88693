import type { YamlKeys } from '../shared/YamlEditor';

/** The keys that a customer's entry may have, and those within some of them. */
export const CUSTOMER_KEYS: YamlKeys = {
  '': [
    'code',
    'name',
    'state',
    'plan',
    'site',
    'zone',
    'currency',
    'card',
    'contacts',
    'calendar',
    'tags',
    'naming',
    'nameServers',
    'blockPrefix',
    'gatewayName',
    'administrator',
  ],
  contacts: ['name', 'mail', 'phone', 'what'],
  calendar: ['country', 'region', 'days'],
  days: ['date', 'name'],
};
