/**
 * The currencies of ISO 4217 (list one) whose minor unit has not two decimal places. A test holds this against a kept
 * package's table: pages come without that, which knows each currency's countries too.
 */
const NOT_TWO: readonly (readonly [digits: number, codes: string])[] = [
  [
    0,
    'BIF CLP DJF GNF ISK JPY KMF KRW PYG RWF UGX UYI VND VUV XAF XAG XAU XBA XBB XBC XBD XDR XOF XPD XPF XPT XSU XTS XUA XXX',
  ],
  [3, 'BHD IQD JOD KWD LYD OMR TND'],
  [4, 'CLF UYW'],
];

const MINOR_DIGITS: ReadonlyMap<string, number> = new Map(
  NOT_TWO.flatMap(([digits, codes]) => codes.split(' ').map((code): [string, number] => [code, digits])),
);

/** Decimal places of a currency's minor unit: 2 for EUR, 0 for JPY, 3 for IQD (ISO 4217, list one). */
export const minorDigits = (currency: string): number => MINOR_DIGITS.get(currency) ?? 2;
