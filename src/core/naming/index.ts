export { parseRule, writeRule, capacityOf, nameAt, type NamingRule, type NamingContext } from './rule';
export { nameFaults, COMPUTER_NAME_LENGTH } from './legal';
export { planNames, namesLeft, mayMeet, type NamePlan } from './plan';
