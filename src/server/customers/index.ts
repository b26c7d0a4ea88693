export { listCustomers, getCustomer, marksOf } from './read';
export { createCustomer, setCustomerState } from './write';
export { aboutCustomer, readDetails } from './about';
export { countries, publicHolidays, regions, type Place } from './calendar';
export { listDrafts } from './drafts';
export { customersYaml } from './file';
