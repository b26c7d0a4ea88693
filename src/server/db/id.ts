import { monotonicFactory } from 'ulid';

const next = monotonicFactory();

/** A new id: 26 characters that sort by the time of their making, without a meeting of the processes that make them. */
export const newId = (): string => next();
