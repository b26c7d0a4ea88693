export const ROLES = ['engineer', 'lead', 'bookkeeper'] as const;
export type Role = (typeof ROLES)[number];

/** Whether someone reaches every customer, or those listed for them. */
export const REACHES = ['every', 'listed'] as const;
