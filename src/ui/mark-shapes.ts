/** Outlines in a 40 × 40 field. */
export const SHAPES: readonly string[] = [
  'M20 2A18 18 0 1 1 20 38A18 18 0 1 1 20 2Z',
  'M5 4H35Q38 4 38 7V33Q38 36 35 36H5Q2 36 2 33V7Q2 4 5 4Z',
  'M20 1L38 11V29L20 39L2 29V11Z',
  'M3 3H37V22Q37 34 20 39Q3 34 3 22Z',
  'M12 2H28L38 12V28L28 38H12L2 28V12Z',
  'M2 38V18Q2 2 20 2Q38 2 38 18V38Z',
];

/** Lines in an 8 × 8 tile. */
export const PATTERNS: readonly string[] = [
  'M0 8L8 0',
  'M4 0V8',
  'M0 4H8',
  'M0 0L8 8M8 0L0 8',
  'M4 2A2 2 0 1 1 4 6A2 2 0 1 1 4 2',
];

/** A mark as an SVG document, for the tab's icon. */
export function markSvg(mark: { code: string; hue: number; shape: number; pattern: number }): string {
  const shape = SHAPES[mark.shape % SHAPES.length] ?? '';
  const pattern = PATTERNS[mark.pattern % PATTERNS.length] ?? '';
  const letters = mark.code.replace(/[^A-Z0-9]/g, '').slice(0, 3);
  return (
    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 40"><defs>` +
    `<pattern id="p" width="8" height="8" patternUnits="userSpaceOnUse"><rect width="8" height="8" fill="hsl(${mark.hue} 42% 34%)"/>` +
    `<path d="${pattern}" stroke="hsl(${mark.hue} 40% 46%)" stroke-width="1.6" fill="none"/></pattern></defs>` +
    `<path d="${shape}" fill="url(#p)"/><text x="20" y="25.5" text-anchor="middle" font-size="15" font-weight="700" ` +
    `font-family="sans-serif" fill="#fff">${letters}</text></svg>`
  );
}
