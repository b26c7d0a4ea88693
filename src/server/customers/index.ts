export { listCustomers, getCustomer, marksOf } from './read';
export { createCustomer, setCustomerState } from './write';
