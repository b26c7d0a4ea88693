/** Who someone is here. An auditor reads everything within reach, and changes nothing but what is their own. */
export const ROLES = ['engineer', 'lead', 'bookkeeper', 'auditor'] as const;
export type Role = (typeof ROLES)[number];

/** Whether someone builds, changes and takes away. */
export const mayBuild = (role: string): boolean => role === 'engineer' || role === 'lead';

/** Whether someone reaches every customer, or those listed for them. */
export const REACHES = ['every', 'listed'] as const;
