import Holidays from 'date-holidays';

export interface FreeDay {
  readonly date: string;
  readonly name: string;
}

/** A country or region that has public holidays of its own, with its name in English. */
export interface Place {
  readonly code: string;
  readonly name: string;
}

const places = (found: Readonly<Record<string, string>> | undefined): Place[] =>
  Object.entries(found ?? {})
    .map(([code, name]) => ({ code, name }))
    .sort((a, b) => a.name.localeCompare(b.name, 'en'));

/** The countries whose public holidays are known (ISO 3166-1). */
export const countries = (): Place[] => places(new Holidays().getCountries('en'));

/** The regions of a country that have days of their own (ISO 3166-2, without the country). */
export const regions = (country: string): Place[] => places(new Holidays().getStates(country, 'en'));

/** What is wrong with a country and region; undefined: nothing, or there is none. */
export function calendarFault(country: string, region: string): { field: string; says: string } | undefined {
  if (country === '')
    return region === '' ? undefined : { field: 'calendar.region', says: 'needs a country' };
  if (!countries().some(({ code }) => code === country))
    return { field: 'calendar.country', says: 'is no country whose public holidays are known' };
  if (region !== '' && !regions(country).some(({ code }) => code === region))
    return { field: 'calendar.region', says: `is no region of ${country}` };
  return undefined;
}

/** The public holidays of a country and region in a year, in order. Only whole days that are public holidays. */
export function publicHolidays(country: string, region: string, year: number): FreeDay[] {
  if (country === '') return [];
  const days = region === '' ? new Holidays(country) : new Holidays(country, region);
  return days
    .getHolidays(year)
    .filter((day) => day.type === 'public')
    .map(({ date, name }) => ({ date: date.slice(0, 10), name }));
}
