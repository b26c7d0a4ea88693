import { newestRevision } from '../templates';
import type { FactReader } from './reader';

/** The template that an environment is made from, or came from. */
export const template: FactReader<'template'> = async ({ connection, scope, subject, get }) => {
  const from = subject.template ?? (await get('environment'))?.intent.template?.code;
  return from === undefined ? undefined : newestRevision(connection, scope, from);
};
