import type { PublishedItem } from '../intent';
import { parted } from '../recipes';

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
