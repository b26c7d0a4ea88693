import type { ReactNode } from 'react';
import styles from './Ring.module.css';

/** How an arc is drawn; each is told apart by its shape, and has a colour of its own too. */
export type RingLook = 'full' | 'notched' | 'dashed' | 'hollow' | 'thin' | 'crossed' | 'gap';

/** A piece of a ring: as long as its parts of all parts, `fill` of its depth taken (0 to 1). */
export interface RingArc {
  readonly look: RingLook;
  readonly parts: number;
  readonly fill: number;
}

interface Props {
  readonly arcs: readonly RingArc[];
  /** 24, 64 and 240 are the usual ones. */
  readonly size: number;
  /** What the ring says, in words, for those who do not see it; empty where the words stand beside it. */
  readonly label: string;
  /** The one number that matters here. */
  readonly children?: ReactNode;
  /** What stands under it. */
  readonly unit?: string;
}

const CENTRE = 50;
const OUTER = 48;

/** The one sign: arcs around one number; how full each is, by the depth of its band. */
export function Ring({ arcs, size, label, children, unit }: Props) {
  const width = size <= 32 ? 17 : size <= 110 ? 13 : 11;
  const said = label === '' ? { 'aria-hidden': true } : { role: 'img', 'aria-label': label };
  const total = arcs.reduce((sum, arc) => sum + arc.parts, 0);
  return (
    <span className={styles.ring} style={{ width: size, height: size }} {...said}>
      <svg viewBox="0 0 100 100" width={size} height={size} aria-hidden="true">
        {total === 0 ? (
          <circle cx={CENTRE} cy={CENTRE} r={OUTER - width / 2} className={styles.none} />
        ) : (
          placed(arcs, total, size).map((one) => <Arc key={one.from} {...one} width={width} />)
        )}
      </svg>
      {children !== undefined && size >= 48 && (
        <span className={styles.middle} style={{ fontSize: Math.max(13, size / 5.2) }}>
          <b>{children}</b>
          {unit !== undefined && size >= 90 && <small>{unit}</small>}
        </span>
      )}
    </span>
  );
}

interface PlacedArc {
  readonly arc: RingArc;
  readonly from: number;
  readonly to: number;
}

function placed(arcs: readonly RingArc[], total: number, size: number): PlacedArc[] {
  const gap = arcs.length === 1 ? 0 : Math.min(size <= 32 ? 9 : 4, 140 / arcs.length);
  let at = 0;
  return arcs.map((arc) => {
    const from = at + gap / 2;
    at += (arc.parts / total) * 360;
    return { arc, from, to: Math.max(from + 0.5, at - gap / 2) };
  });
}

function Arc({ arc, from, to, width }: PlacedArc & { readonly width: number }) {
  const inner = OUTER - width;
  const middle = OUTER - width / 2;
  const fill = Math.max(0, Math.min(1, arc.fill));
  const look = styles[arc.look];
  switch (arc.look) {
    case 'full':
    case 'notched':
      return (
        <g className={look}>
          <path d={stroke(middle, from, to)} strokeWidth={width} className={styles.track} />
          {fill > 0 && (
            <path
              d={stroke(inner + (width * fill) / 2, from, to)}
              strokeWidth={Math.max(1.5, width * fill)}
              className={styles.taken}
            />
          )}
          {arc.look === 'notched' && (
            <path d={stroke(inner + 1, from, to)} strokeWidth={2} className={styles.notch} />
          )}
        </g>
      );
    case 'dashed':
      return <path d={stroke(middle, from, to)} strokeWidth={width * 0.7} className={look} />;
    case 'hollow':
      return <path d={band(inner + 1, OUTER - 1, from, to)} className={look} />;
    case 'thin':
      return <path d={stroke(inner + 2, from, to)} strokeWidth={3} className={look} />;
    case 'crossed':
      return (
        <g className={look}>
          <path d={stroke(middle, from, to)} strokeWidth={width} className={styles.track} />
          <path d={cross(middle, (from + to) / 2, width * 0.26)} className={styles.sign} />
        </g>
      );
    case 'gap': {
      const [x, y] = point(middle, (from + to) / 2);
      return (
        <g className={look}>
          <path d={stroke(middle, from, to)} strokeWidth={1.5} className={styles.gone} />
          <circle cx={x} cy={y} r={width > 16 ? 11 : width * 0.24} />
        </g>
      );
    }
  }
}

function point(radius: number, degrees: number): [number, number] {
  const angle = ((degrees - 90) * Math.PI) / 180;
  return [round(CENTRE + radius * Math.cos(angle)), round(CENTRE + radius * Math.sin(angle))];
}

/** The same text on the server and in the browser, whose last digits may differ. */
const round = (value: number): number => Math.round(value * 1000) / 1000;

function stroke(radius: number, from: number, to: number): string {
  if (to - from >= 359.9) {
    const [top, bottom] = [CENTRE - radius, CENTRE + radius];
    return `M${CENTRE} ${top}A${radius} ${radius} 0 1 1 ${CENTRE} ${bottom}A${radius} ${radius} 0 1 1 ${CENTRE} ${top}`;
  }
  const [x1, y1] = point(radius, from);
  const [x2, y2] = point(radius, to);
  return `M${x1} ${y1}A${radius} ${radius} 0 ${to - from > 180 ? 1 : 0} 1 ${x2} ${y2}`;
}

function band(inner: number, outer: number, from: number, to: number): string {
  const end = Math.min(to, from + 359.9);
  const [x1, y1] = point(outer, from);
  const [x2, y2] = point(outer, end);
  const [x3, y3] = point(inner, end);
  const [x4, y4] = point(inner, from);
  const large = end - from > 180 ? 1 : 0;
  return `M${x1} ${y1}A${outer} ${outer} 0 ${large} 1 ${x2} ${y2}L${x3} ${y3}A${inner} ${inner} 0 ${large} 0 ${x4} ${y4}Z`;
}

function cross(radius: number, degrees: number, half: number): string {
  const [x, y] = point(radius, degrees);
  return `M${round(x - half)} ${round(y - half)}L${round(x + half)} ${round(y + half)}M${round(x + half)} ${round(y - half)}L${round(x - half)} ${round(y + half)}`;
}
