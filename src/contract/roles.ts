export { can, RIGHTS, RIGHTS_OF, ROLES, type Right, type Role } from '../core/access';

/** Whether someone reaches every customer, or those listed for them. */
export const REACHES = ['every', 'listed'] as const;
