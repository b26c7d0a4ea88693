import type { OfferedItem, PublishedItem } from '../intent';

const startSays = ({ starts, arguments: given, crosses, screen }: PublishedItem): string[] => [
  ...(starts === undefined ? [] : [`starts ${starts}`]),
  ...(given === undefined ? [] : [`with ${given}`]),
  ...(crosses === undefined
    ? []
    : [crosses.length === 0 ? 'nothing crosses' : `${crosses.join(' and ')} cross`]),
  ...(screen === undefined ? [] : [`shown ${screen}`]),
];

/**
 * What of an item goes beyond its name, on one line, as it stands at the provider; undefined: nothing does.
 * @example
 * itemLine({ name: 'Ledgers', kind: 'app', starts: 'Tallybrook', arguments: '--year 2026' })
 * // 'Ledgers: starts Tallybrook, with --year 2026'
 */
export function itemLine(item: PublishedItem): string | undefined {
  const said = startSays(item);
  return said.length === 0 ? undefined : `${item.name}: ${said.join(', ')}`;
}

/**
 * An item with all that is said of it, for people to read.
 * @example
 * writeItem({ name: 'Ledgers', kind: 'app', folder: 'Figures', hidden: true }) // 'Ledgers (under Figures, not shown)'
 */
export function writeItem(item: OfferedItem): string {
  const said = [
    ...startSays(item),
    ...(item.folder === undefined ? [] : [`under ${item.folder}`]),
    ...(item.hidden === true ? ['not shown'] : []),
    ...(item.icon === undefined ? [] : [`drawn as ${item.icon}`]),
    ...(item.for === undefined ? [] : [`for ${item.for.replace('=', '')}`]),
  ];
  return said.length === 0 ? item.name : `${item.name} (${said.join(', ')})`;
}

/** Things under the headings that they stand under: those under none first, then by heading. */
export function inFolders<One extends { readonly folder: string }>(
  all: readonly One[],
): { readonly folder: string; readonly items: readonly One[] }[] {
  const folders = [...new Set(all.map(({ folder }) => folder))].sort((a, b) => a.localeCompare(b, 'en'));
  return folders.map((folder) => ({ folder, items: all.filter((one) => one.folder === folder) }));
}
