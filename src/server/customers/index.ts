export { listCustomers, getCustomer, marksOf, realmOf, refuseGone } from './read';
export {
  createCustomer,
  keepState,
  markRetired,
  notePausedFrom,
  notePeople,
  setCustomerState,
} from './write';
export { aboutCustomer, forgetDetails, readDetails, tagsOfCustomer } from './about';
export { countries, publicHolidays } from './calendar';
export { listDrafts } from './drafts';
export { customersYaml } from './file';
