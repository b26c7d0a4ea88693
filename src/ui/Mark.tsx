import { useId } from 'react';
import { PATTERNS, SHAPES } from './mark-shapes';

/** A customer's own sign: letters in a shape with a pattern and a hue. */
export interface MarkLook {
  readonly code: string;
  readonly hue: number;
  readonly shape: number;
  readonly pattern: number;
}

export function Mark({ mark, size = 28 }: { readonly mark: MarkLook; readonly size?: number }) {
  const id = useId();
  const shape = SHAPES[mark.shape % SHAPES.length];
  return (
    <svg
      viewBox="0 0 40 40"
      width={size}
      height={size}
      role="img"
      aria-label={mark.code}
      style={{ flex: 'none', display: 'block' }}
    >
      <defs>
        <pattern id={id} width="8" height="8" patternUnits="userSpaceOnUse">
          <rect width="8" height="8" fill={`hsl(${mark.hue} 42% 34%)`} />
          <path
            d={PATTERNS[mark.pattern % PATTERNS.length]}
            stroke={`hsl(${mark.hue} 40% 46%)`}
            strokeWidth="1.6"
            fill="none"
          />
        </pattern>
      </defs>
      <path d={shape} fill={`url(#${id})`} />
      <rect x="4" y="13" width="32" height="14" rx="3" fill={`hsl(${mark.hue} 46% 25%)`} />
      <text
        x="20"
        y="24"
        textAnchor="middle"
        fontSize="11.5"
        fontWeight="700"
        fill="#fff"
        style={{ fontFamily: 'var(--sans)' }}
      >
        {mark.code.slice(0, 3)}
      </text>
    </svg>
  );
}
