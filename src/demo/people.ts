/** Invented people: names made by combining lists, the same ones each time. */

const GIVEN =
  'Aino Bertil Carys Dorrit Edda Fergus Greta Halvar Imke Jory Kerensa Lowri Maren Nessa Oriel Piran Quill Runa Sorrel Tamsin Ursa Viggo Wenna Ylva Zephyr Anselm Brisa Corin Delphine Eskil'.split(
    ' ',
  );
const FAMILY =
  'Ashgrove Brackwater Cairnfield Dunnock Ellery Fallowmere Gannet Holmwick Inchbrook Jessop Kittering Larkspur Morrowby Nettleship Oakhanger Penhallow Quarrington Rushbourne Saltash Thornaby Underhill Varley Wetherby Yarrow'.split(
    ' ',
  );

export interface DemoPerson {
  readonly account: string;
  readonly given: string;
  readonly family: string;
  readonly mail: string;
}

/** The first `count` people of a customer. Accounts are unique within it. */
export function peopleOf(code: string, count: number): DemoPerson[] {
  const start = [...code].reduce((sum, letter) => sum * 31 + letter.charCodeAt(0), 7);
  return Array.from({ length: count }, (_, index) => {
    const given = GIVEN[(start + index * 7) % GIVEN.length] ?? '';
    const family = FAMILY[(start + index * 11 + Math.floor(index / GIVEN.length)) % FAMILY.length] ?? '';
    const account = `${given}.${family}${index >= GIVEN.length ? index : ''}`.toLowerCase();
    return { account, given, family, mail: `${account}@${code.toLowerCase()}.example` };
  });
}

/** As an import file. */
export const peopleCsv = (people: readonly DemoPerson[]): string =>
  [
    'account,given,family,mail',
    ...people.map((one) => [one.account, one.given, one.family, one.mail].join(',')),
  ].join('\r\n');
