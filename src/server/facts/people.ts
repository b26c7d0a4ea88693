import { accountsAmong, granteesAmong, groupFacts } from '../people';
import type { FactReader } from './reader';

/** Those of the accounts that the change names whom the directory knows. */
export const accounts: FactReader<'accounts'> = async ({ connection, scope, subject: { concerns = [] } }) =>
  concerns.length === 0 ? undefined : accountsAmong(connection, scope, concerns);

/** Whom the change names; and every group, where its template asks for some. */
export const grantees: FactReader<'grantees'> = async ({ connection, scope, subject, get }) => {
  const template = await get('template');
  const asksGroups = template?.document.inputs.some(({ type }) => type === 'group') === true;
  const ids = [
    ...(subject.grantees ?? []),
    ...(asksGroups ? (await groupFacts(connection, scope)).keys() : []),
  ];
  return ids.length === 0 ? undefined : granteesAmong(connection, scope, ids);
};
