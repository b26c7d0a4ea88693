import Joi from 'joi';
import { CROSSINGS, ITEM_ICONS, ITEM_KINDS, SCREENS, type OfferedItem, type PublishedItem } from '../intent';

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
