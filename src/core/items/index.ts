/* What a pool publishes: what each item starts, where people find it, what may cross, and how large it is shown. */

export { itemSchema, itemsOf, itemsSchema, MOST_ITEMS, offeredItemsSchema } from './schema';
export { crossesOf, screenOf, tidyItem, USUAL_RULES, type DeskRules } from './rules';
export { foundOn, isOn, programOf } from './found';
export { inFolders, itemLine, writeItem } from './words';
