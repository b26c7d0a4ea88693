/**
 * What somebody may do here. `see`: read what is in reach; `run`: the day's work with sessions and hosts; `build`: make,
 * change and take away; `decide`: approve, and what belongs to the MSP as a whole; `sell`: plans, and what a customer has of
 * them; `book`: prices.
 */
export const RIGHTS = ['see', 'run', 'build', 'decide', 'sell', 'book'] as const;
export type Right = (typeof RIGHTS)[number];

export const ROLES = ['engineer', 'lead', 'bookkeeper', 'auditor'] as const;
export type Role = (typeof ROLES)[number];

/** A role is a named set of rights. This is the only place that defines it. */
export const RIGHTS_OF: Readonly<Record<Role, readonly Right[]>> = {
  engineer: ['see', 'run', 'build'],
  lead: RIGHTS,
  bookkeeper: ['see', 'book'],
  auditor: ['see'],
};

/**
 * Whether whoever has these rights may do something.
 * @param right undefined: it asks for none but to be somebody here
 * @example
 * can(RIGHTS_OF.auditor, 'build') // false
 */
export const can = (rights: readonly Right[], right: Right | undefined): boolean =>
  right === undefined || rights.includes(right);

/**
 * The roles that have a right.
 * @example
 * rolesWith('book') // ['lead', 'bookkeeper']
 */
export const rolesWith = (right: Right): Role[] => ROLES.filter((role) => can(RIGHTS_OF[role], right));

/**
 * What a token may do: no more than its operator, and no more than it was made for. It may always see.
 * @param made undefined: everything that its operator may do at any time
 * @example
 * narrowed(RIGHTS_OF.engineer, ['see', 'book']) // ['see']
 */
export const narrowed = (rights: readonly Right[], made: readonly string[] | undefined): readonly Right[] =>
  made === undefined ? rights : rights.filter((right) => right === 'see' || made.includes(right));
