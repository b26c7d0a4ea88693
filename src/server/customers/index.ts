export { listCustomers, getCustomer } from './read';
export { createCustomer, setCustomerState } from './write';
