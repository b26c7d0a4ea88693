import type { ItemIcon as Icon, PublishedItem } from '../../core/intent';
import styles from './ItemIcon.module.css';

/** What is drawn on an app's tile: strokes in a square of 24. */
const DRAWN: Readonly<Record<string, string>> = {
  Tallybrook: 'M5 19V11M10 19V6M15 19V13M20 19V9M3 19H21',
  Contourwick: 'M3 17C7 9 11 9 13 12S18 16 21 8M3 21C8 14 11 14 14 16S19 19 21 14M5 11C8 4 12 4 14 7',
  Tidewarden:
    'M3 9C6 6 8 6 12 9S18 12 21 9M3 14C6 11 8 11 12 14S18 17 21 14M3 19C6 16 8 16 12 19S18 22 21 19',
  Murrelmail: 'M3 7H21V18H3ZM3 7L12 14L21 7',
  Paddockbook: 'M5 4H17A2 2 0 0 1 19 6V20H7A2 2 0 0 1 5 18ZM5 18A2 2 0 0 1 7 16H19M9 8H15M9 11H13',
};
const BY_ICON: Readonly<Record<Icon, string>> = {
  figures: 'M5 19V11M10 19V6M15 19V13M20 19V9M3 19H21',
  map: 'M3 6L9 4L15 6L21 4V18L15 20L9 18L3 20ZM9 4V18M15 6V20',
  tides: 'M3 9C6 6 8 6 12 9S18 12 21 9M3 14C6 11 8 11 12 14S18 17 21 14M3 19C6 16 8 16 12 19S18 22 21 19',
  letters: 'M3 7H21V18H3ZM3 7L12 14L21 7',
  book: 'M5 4H17A2 2 0 0 1 19 6V20H7A2 2 0 0 1 5 18ZM5 18A2 2 0 0 1 7 16H19M9 8H15M9 11H13',
  tools: 'M14 6A4 4 0 1 0 18 10L21 13L18 16L15 13M12 12L4 20',
  people:
    'M9 11A3 3 0 1 0 9 5A3 3 0 1 0 9 11M3 19C3 15 6 14 9 14S15 15 15 19M16 6A3 3 0 0 1 16 11M18 14C20 15 21 16 21 19',
  clock: 'M12 3A9 9 0 1 0 12 21A9 9 0 1 0 12 3M12 7V12L15 14',
};
const DESKTOP = 'M3 5H21V16H3ZM9 20H15M12 16V20M6 12L9 9L11 11L14 8';

const hueOf = (name: string): number =>
  [...name].reduce((sum, letter) => (sum * 31 + (letter.codePointAt(0) ?? 0)) % 360, 11);

function pathOf({ name, kind, icon }: Parameters<typeof ItemIcon>[0]['item']): string | undefined {
  if (kind === 'desktop') return DESKTOP;
  if (icon) return BY_ICON[icon];
  return Object.hasOwn(DRAWN, name) ? DRAWN[name] : undefined;
}

/** An item as a tile: drawn, where we have drawn it, else its letter. The whole desktop is a screen. */
export function ItemIcon({
  item,
  size = 40,
}: {
  readonly item: Pick<PublishedItem, 'name' | 'kind'> & { readonly icon?: Icon | null };
  readonly size?: number;
}) {
  const path = pathOf(item);
  return (
    <svg
      className={styles.icon}
      viewBox="0 0 40 40"
      width={size}
      height={size}
      aria-hidden="true"
      style={{ '--icon-hue': hueOf(item.name) } as React.CSSProperties}
      data-kind={item.kind}
    >
      <rect x="1" y="1" width="38" height="38" rx={item.kind === 'desktop' ? 5 : 11} />
      {path === undefined ? (
        <text x="20" y="27" textAnchor="middle">
          {[...item.name][0] ?? '?'}
        </text>
      ) : (
        <path d={path} transform="translate(8 8)" />
      )}
    </svg>
  );
}
