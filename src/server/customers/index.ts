export { listCustomers, getCustomer, type CustomerRow, type CustomerState, type Mark } from './read';
export { createCustomer, setCustomerState, type NewCustomer } from './write';
