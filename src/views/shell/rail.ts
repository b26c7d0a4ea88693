/** The places of the rail, in the order of the work; `g` and the key goes there. */
export const RAIL = [
  { key: 'w', name: 'Watch', href: '/' },
  { key: 'c', name: 'Customers', href: '/customers' },
  { key: 'b', name: 'Build', href: '/build' },
  { key: 's', name: 'Serve', href: '/serve' },
  { key: 'r', name: 'Runs', href: '/runs' },
  { key: 'o', name: 'Ground', href: '/ground' },
  { key: 'm', name: 'Money', href: '/money' },
  { key: 't', name: 'Trail', href: '/trail' },
] as const;

export type Place = (typeof RAIL)[number]['name'];

/** What is about those who work here, beside one's own page. */
export const ABOUT_YOU = [
  { name: 'You', href: '/you' },
  { name: 'Operators', href: '/operators' },
] as const;

/** What a place has more than one page of; `builds`: for those who build alone. */
export const PARTS: Partial<
  Record<Place, readonly { readonly name: string; readonly href: string; readonly builds?: boolean }[]>
> = {
  Customers: [
    { name: 'All customers', href: '/customers' },
    { name: 'A new customer', href: '/customers/new', builds: true },
    { name: 'From a file', href: '/customers/file', builds: true },
  ],
  Build: [
    { name: 'Templates', href: '/build' },
    { name: 'Images', href: '/build/images' },
  ],
  Ground: [
    { name: 'Sites', href: '/ground' },
    { name: 'Addresses', href: '/ground/addresses' },
    { name: 'Networks', href: '/ground/networks' },
    { name: 'Ready shelf', href: '/ground/shelf' },
    { name: 'What changed', href: '/ground/changes' },
  ],
  Money: [
    { name: 'This month', href: '/money' },
    { name: 'Plans', href: '/money/plans' },
    { name: 'Prices', href: '/money/prices' },
  ],
};
