import { minorDigits } from '../core/currency';
import type { Money } from '../core/money';

const moneyFormats = new Map<string, Intl.NumberFormat>();

/** An amount as people read it: `£ 1,234.50`; the currency is always beside it. */
export function writeMoney({ minor, currency }: Money): string {
  let format = moneyFormats.get(currency);
  if (!format) {
    const digits = minorDigits(currency);
    format = new Intl.NumberFormat('en-GB', {
      style: 'currency',
      currency,
      // A sign that several currencies share is none: `kr` stands for five of them.
      currencyDisplay: 'symbol',
      minimumFractionDigits: digits,
      maximumFractionDigits: digits,
    });
    moneyFormats.set(currency, format);
  }
  return format.format(minor / 10 ** minorDigits(currency));
}

/** A price as its rate has it: `£0.066`, `€4`. */
export const writePrice = (price: string, currency: string): string =>
  new Intl.NumberFormat('en-GB', {
    style: 'currency',
    currency,
    currencyDisplay: 'symbol',
    minimumFractionDigits: 0,
    maximumFractionDigits: 6,
  }).format(Number(price));

/** Whole units, for places where cents do not matter. */
export function writeRoundMoney({ minor, currency }: Money): string {
  return new Intl.NumberFormat('en-GB', {
    style: 'currency',
    currency,
    currencyDisplay: 'symbol',
    maximumFractionDigits: 0,
  }).format(minor / 10 ** minorDigits(currency));
}

const formats = new Map<string, Intl.DateTimeFormat>();

function dateFormat(zone: string, options: Intl.DateTimeFormatOptions): Intl.DateTimeFormat {
  const key = `${zone} ${JSON.stringify(options)}`;
  const known = formats.get(key);
  if (known) return known;
  const made = new Intl.DateTimeFormat('en-GB', { timeZone: zone, ...options });
  formats.set(key, made);
  return made;
}

/** `24 Nov 09:40`, in a zone. */
export const writeWhen = (at: number, zone: string): string =>
  dateFormat(zone, { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })
    .format(at)
    .replace(',', '');

/** `Tue 24 Nov 2026, 09:40:12` */
export const writeExactly = (at: number, zone: string): string =>
  dateFormat(zone, {
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
    second: '2-digit',
  }).format(at);

export const writeClock = (at: number, zone: string): string =>
  dateFormat(zone, { weekday: 'short', day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })
    .format(at)
    .replace(',', '');

export const writeDay = (at: number, zone: string): string =>
  dateFormat(zone, { day: 'numeric', month: 'short', year: 'numeric' }).format(at);

export const writeMonth = (key: string): string =>
  dateFormat('UTC', { month: 'long', year: 'numeric' }).format(new Date(`${key}-01T00:00:00Z`));

/** `45 s`, `12 min`, `2 h 5 min`. */
export function writeSpan(seconds: number): string {
  if (seconds < 60) return `${Math.max(0, Math.round(seconds))} s`;
  const minutes = Math.round(seconds / 60);
  if (minutes < 60) return `${minutes} min`;
  return minutes % 60 === 0 ? `${minutes / 60} h` : `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
}

const figures = new Intl.NumberFormat('en-GB', { maximumFractionDigits: 2 });

/** `16,512` */
export const writeFigure = (n: number): string => figures.format(Math.abs(n) < 0.005 ? 0 : n);

/** A quantity that a price is multiplied with: `16.50`, and of a small one as much as makes its charge: `0.00144`. */
export const writeQuantity = (n: number): string =>
  n.toLocaleString('en-GB', {
    minimumFractionDigits: 2,
    maximumFractionDigits: Math.abs(n) < 0.1 ? 5 : 2,
  });

/** `1 host`, `16,512 hosts`. */
export const count = (n: number, one: string, many: string): string =>
  `${writeFigure(n)} ${n === 1 ? one : many}`;

/** `an hour`, `a month`. */
export const writeUnit = (unit: 'hour' | 'month'): string => (unit === 'hour' ? 'an hour' : 'a month');
