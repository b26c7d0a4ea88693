/** What is tried of a connection, in this order; what comes after one that failed cannot be. */
export const TRIES = ['address', 'clock', 'sign in', 'sites', 'prices', 'make and remove'] as const;
export const TRY_OUTCOMES = ['works', 'warns', 'fails', 'not tried'] as const;
