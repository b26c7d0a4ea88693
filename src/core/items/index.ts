import Joi from 'joi';
import {
  CROSSINGS,
  ITEM_ICONS,
  ITEM_KINDS,
  SCREENS,
  type Crossing,
  type OfferedItem,
  type PublishedItem,
  type Screen,
} from '../intent';
import { parted } from '../recipes';

/* What a pool publishes: what each item starts, where people find it, what may cross, and how large it is shown. */

export const MOST_ITEMS = 60;

const line = (most: number): Joi.StringSchema =>
  Joi.string()
    .trim()
    .min(1)
    .max(most)
    // What is started is one line: nothing of it can begin another.
    .pattern(/^[^\p{Cc}]*$/u)
    .messages({ 'string.pattern.base': 'is one line of plain text' });

const ofApps = (schema: Joi.StringSchema): Joi.StringSchema =>
  schema.when('kind', {
    is: 'desktop',
    then: Joi.forbidden().messages({ 'any.unknown': 'is of apps: a desktop starts as it is' }),
  });

export const itemSchema = Joi.object<PublishedItem>({
  name: line(80).required().description('What people see'),
  kind: Joi.string()
    .valid(...ITEM_KINDS)
    .default('app'),
  starts: ofApps(line(200)).description(
    'The program, by its name on the image or its path; left out: as the item is called',
  ),
  arguments: ofApps(line(400)).description('What the program is started with'),
  folder: line(40).description('Under which heading people find it; left out: under none'),
  hidden: Joi.boolean().description('Granted, and not shown on people’s desks'),
  crosses: Joi.array()
    .items(Joi.string().valid(...CROSSINGS))
    .unique()
    .description('What of that which may cross in its pool may cross here; left out: all of it'),
  screen: Joi.string()
    .valid(...SCREENS)
    .description('How large it is shown; left out: as the customer has it'),
  icon: Joi.string()
    .valid(...ITEM_ICONS)
    .description('What is drawn on its tile'),
});

const alike = (a: PublishedItem, b: PublishedItem): boolean =>
  String(a.name).toLowerCase() === String(b.name).toLowerCase();

/** All that a pool publishes: at least one, each by a name of its own, however it is written. */
export const itemsOf = <Item extends PublishedItem>(item: Joi.ObjectSchema<Item>): Joi.ArraySchema =>
  Joi.array().items(item).min(1).max(MOST_ITEMS).unique(alike);

export const itemsSchema = itemsOf(itemSchema);

/** As a template offers them: an item may be for the group that an input names. */
export const offeredItemsSchema = itemsOf<OfferedItem>(
  itemSchema.append<OfferedItem>({
    for: Joi.string()
      .pattern(/^(=\s*[a-z][a-z0-9-]{0,23}|[0-9A-HJKMNP-TV-Z]{26})$/)
      .messages({ 'string.pattern.base': 'write "=vets": the input that names the group' })
      .description('The input that names the group it is granted to; left out: everyone'),
  }),
);

/** An item with nothing said that goes without saying, in one order: two that are alike are written alike. */
export function tidyItem({
  name,
  kind,
  starts,
  arguments: given,
  folder,
  hidden,
  crosses,
  screen,
  icon,
}: PublishedItem): PublishedItem {
  return {
    name,
    kind,
    ...(kind === 'app' && starts !== undefined && starts !== name ? { starts } : {}),
    ...(kind === 'app' && given !== undefined ? { arguments: given } : {}),
    ...(folder === undefined ? {} : { folder }),
    ...(hidden === true ? { hidden } : {}),
    ...(crosses === undefined ? {} : { crosses: CROSSINGS.filter((one) => crosses.includes(one)) }),
    ...(screen === undefined ? {} : { screen }),
    ...(icon === undefined ? {} : { icon }),
  };
}

/** What a customer lets all its people do, whatever a pool or an item says. */
export interface DeskRules {
  /** No more than this crosses anywhere. */
  readonly crosses: readonly Crossing[];
  readonly screen: Screen;
}

/** Where nobody said otherwise. */
export const USUAL_RULES: DeskRules = { crosses: CROSSINGS, screen: 'as the window' };

/**
 * What may cross at an item: what its pool, its customer and it itself all let cross.
 * @example
 * crossesOf({ crosses: ['clipboard'] }, ['clipboard', 'drives'], ['drives', 'clipboard']) // ['clipboard']
 */
export const crossesOf = (
  { crosses = CROSSINGS }: Pick<PublishedItem, 'crosses'>,
  ofPool: readonly Crossing[],
  ofCustomer: readonly Crossing[],
): Crossing[] =>
  CROSSINGS.filter((one) => ofPool.includes(one) && ofCustomer.includes(one) && crosses.includes(one));

export const screenOf = ({ screen }: Pick<PublishedItem, 'screen'>, rules: DeskRules): Screen =>
  screen ?? rules.screen;

/** What an app starts. */
export const programOf = ({ name, starts }: Pick<PublishedItem, 'name' | 'starts'>): string => starts ?? name;

const isPath = (program: string): boolean => /[\\/]/.test(program);

/**
 * Whether an app's program is on an image. A path is not looked for: what it leads to only the host knows.
 * @param programs as a capture names them, each with its version last: `Tallybrook 4.2`
 * @example
 * isOn({ name: 'Ledgers', starts: 'Tallybrook' }, ['Tallybrook 4.2']) // true
 */
export function isOn(item: Pick<PublishedItem, 'name' | 'starts'>, programs: readonly string[]): boolean {
  const program = programOf(item).toLowerCase();
  return (
    isPath(program) ||
    programs.some((one) => one.toLowerCase() === program || parted(one)[0].toLowerCase() === program)
  );
}

/** What an image has, by name, each with its version; in order of name. */
export const foundOn = (programs: readonly string[]): { readonly name: string; readonly version: string }[] =>
  programs
    .map(parted)
    .map(([name, version]) => ({ name, version }))
    .sort((a, b) => a.name.localeCompare(b.name, 'en'));

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
