import { CROSSINGS, type Crossing, type PublishedItem, type Screen } from '../intent';

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
