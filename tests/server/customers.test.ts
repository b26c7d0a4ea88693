import Ajv2020 from 'ajv/dist/2020';
import Holidays from 'date-holidays';
import { parse } from 'yaml';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { NO_DETAILS, type Draft, type FileOutcome, type Preview } from '../../src/contract';
import { publicHolidays } from '../../src/server/customers';
import { openWorld, provisionFor, type Called, type World } from './setup/world';

/** A customer taken on, changed, written to a file and read from one. */
describe('a customer on board', () => {
  let world: World;
  beforeAll(async () => void (world = await openWorld('customers')));
  afterAll(() => world.close());

  const call = (method: string, path: string, body?: object): Promise<Called> =>
    world.call('ida', method, path, body ? { body } : {});
  const wanted = {
    code: 'NEW',
    name: 'Newly Here',
    plan: 'jetty',
    site: 'KQ',
    zone: 'Europe/Dublin',
    currency: 'EUR',
    card: 'eur',
  };
  const details = {
    ...NO_DETAILS,
    contacts: [{ name: 'Ona Reed', mail: 'ona@new.example', phone: '', what: 'invoices' }],
    calendar: { country: 'IE', region: '', days: [{ date: '2026-12-24', name: 'Closed' }] },
    tags: { sector: 'craft' },
    naming: 'N-{role}{counter:2}',
    nameServers: ['10.0.0.53'],
    blockPrefix: 22,
    administrator: 'admin@new.example',
  };
  const filled = {
    ...wanted,
    naming: '',
    country: '',
    region: '',
    blockPrefix: 20,
    known: '',
  };
  const preview = async (over: object): Promise<Preview> =>
    (await call('POST', '/customers/proposal', { ...filled, ...over })).body as unknown as Preview;
  const file = async (text: string, keep = 'check') => {
    const { body } = await world.call('ida', 'POST', `/customers/file?keep=${keep}`, {
      yaml: text,
    });
    return body as unknown as FileOutcome;
  };
  const yamlOf = async (code: string): Promise<string> =>
    (await call('GET', `/customers/${code}/about.yaml`)).text;

  it.each([
    [{ zone: 'Europe/Nowhere' }, 'zone', 'is not an IANA time zone'],
    [{ calendar: { country: 'QQ' } }, 'calendar.country', 'is no country whose public holidays are known'],
    [{ calendar: { country: 'IE', region: 'XX' } }, 'calendar.region', 'is no region of IE'],
    [{ naming: '{customer}' }, 'naming', 'a naming rule needs one counter, like {counter:2}; this one has 0'],
    [{ tags: { 'Not This': 'x' } }, 'tags.Not This', expect.any(String)],
    [{ nameServers: ['10.0.0.300'] }, 'nameServers.0', expect.stringContaining('ip')],
    [{ contacts: [{ name: 'A', mail: 'nowhere' }] }, 'contacts.0.mail', 'must be a valid email'],
    [{ plan: 'none' }, 'plan', 'is not known'],
    [{ card: 'gbp' }, 'card', 'is in GBP'],
    [{ blockPrefix: 8 }, 'blockPrefix', 'must be greater than or equal to 16'],
  ])('is not taken on with %j', async (over, field, says) => {
    const { status, body } = await call('POST', '/customers', { ...wanted, ...over });
    expect([status, body.fields]).toEqual([422, { [field]: says }]);
  });

  it('is taken on with all that is said of it, and built as it says', async () => {
    expect((await call('POST', '/customers', { ...wanted, ...details })).status).toBe(201);
    expect((await call('GET', '/customers/NEW/about')).body).toEqual({
      ...wanted,
      state: 'active',
      ...details,
    });
    await provisionFor(world, 'NEW', 'office', 4, 'KQ');
    const resources = await world.port().resources({ customer: 'NEW' });
    const hosts = resources.filter((one) => one.kind === 'host').map((one) => one.name);
    expect(hosts.sort()).toEqual(['N-DESKS01', 'N-DESKS02', 'N-DESKS03']);
    expect(resources.every((one) => one.tags.sector === 'craft' && one.tags.customer === 'NEW')).toBe(true);
    const network = resources.find((one) => one.kind === 'network');
    expect(String(network?.attributes.cidr)).toMatch(/\/22$/);
  });

  it('is told otherwise, on the trail by what changed', async () => {
    const about = {
      name: 'Newly There',
      zone: wanted.zone,
      ...details,
      tags: { sector: 'craft', since: '2026' },
    };
    const changed = await call('PUT', '/customers/NEW/about', { ...about, reason: 'they moved' });
    expect(changed.body).toEqual({ changed: ['name', 'tags'] });
    expect((await call('PUT', '/customers/NEW/about', about)).body).toEqual({ changed: [] });
    const { entries } = (await call('GET', '/customers/NEW/trail?find=change%20customer')).body;
    expect(entries).toMatchObject([
      {
        before: { name: 'Newly Here', tags: { sector: 'craft' } },
        after: { name: 'Newly There', tags: { sector: 'craft', since: '2026' } },
        reason: 'they moved',
      },
    ]);
    expect((await world.call('jonah', 'PUT', '/customers/NEW/about', { body: about })).status).toBe(404);
    expect((await world.call('petra', 'PUT', '/customers/NEW/about', { body: about })).status).toBe(403);
  });

  it('tells beforehand what would come of it, and what is missing', async () => {
    const empty = await preview({ code: '', name: '', plan: '', site: '', zone: '', currency: '', card: '' });
    expect(empty.missing.map(({ field }) => field)).toEqual(['code', 'name', 'site', 'zone', 'plan', 'card']);
    const next = await preview({ code: 'NXT', country: 'IE', blockPrefix: 22 });
    expect(next).toMatchObject({ missing: [], monthly: { minor: 14_000, currency: 'EUR' }, room: 1024 });
    expect(next.block).toMatch(/^10\.16\.\d+\.0\/22$/);
    expect(next.names[0]).toEqual({
      role: 'desks',
      first: 'NXT-DESKS01',
      last: 'NXT-DESKS99',
      left: 99,
    });
    expect((await preview({ code: 'MHP' })).missing).toEqual([
      { field: 'code', says: 'is a customer already' },
    ]);
    expect((await preview({ code: 'NXT', currency: 'SEK' })).missing).toEqual([
      { field: 'plan', says: 'is not sold in SEK' },
    ]);
  });

  it('tells whose names could be the same, and which cannot be', async () => {
    const alike = await preview({ code: 'NXT', naming: 'N-{role}{counter:2}' });
    expect(alike.meets).toEqual(['NEW']);
    expect((await preview({ code: 'NXT', naming: 'X-{role}{counter:2}' })).meets).toEqual([]);
    const long = await preview({ code: 'NXT', naming: '{customer}-{environment}-{role}{counter:4}' });
    expect(long.missing).toEqual([
      { field: 'naming', says: 'NXT-OFFICE-DESKS0001 has 20 characters; 15 is the most' },
    ]);
    // To whom the other is out of reach, they are not named.
    const { body } = await world.call('jonah', 'POST', '/customers/proposal', {
      body: { ...filled, code: 'NXT', naming: 'N-{role}{counter:2}' },
    });
    expect(body.meets).toEqual(['another customer']);
  });

  it('knows the public holidays of countries and regions as they were published', () => {
    // Ireland 2026, as its government lists them (Organisation of Working Time Act 1997 with SI 50/2022); from memory.
    expect(publicHolidays('IE', '', 2026).map(({ date }) => date)).toEqual([
      '2026-01-01',
      '2026-02-02',
      '2026-03-17',
      '2026-04-06',
      '2026-05-04',
      '2026-06-01',
      '2026-08-03',
      '2026-10-26',
      '2026-12-25',
      '2026-12-26',
    ]);
    // Bavaria has Epiphany and Corpus Christi, Hamburg has not (Feiertagsgesetze of both); from memory.
    const days = (region: string): string[] => publicHolidays('DE', region, 2026).map(({ date }) => date);
    expect(days('BY')).toEqual(expect.arrayContaining(['2026-01-06', '2026-06-04']));
    expect(days('HH')).not.toContain('2026-01-06');
    expect(publicHolidays('', '', 2026)).toEqual([]);
    expect(new Holidays().getCountries()).toHaveProperty('IE');
  });

  it('is written to a file that is read back to the same', async () => {
    const text = await yamlOf('NEW');
    expect(parse(text)).toEqual({ customers: [(await call('GET', '/customers/NEW/about')).body] });
    expect(await file(text, 'all')).toMatchObject({
      kept: true,
      faults: [],
      customers: [{ code: 'NEW', outcome: 'same' }],
    });
  });

  it('fits the schema that is published, which anyone’s validator reads', async () => {
    const { body, headers } = await call('GET', '/customers.schema.json');
    expect(headers.get('content-type')).toContain('application/schema+json');
    expect(body.$schema).toBe('https://json-schema.org/draft/2020-12/schema');
    const validate = new Ajv2020({ strict: false, validateFormats: false }).compile(body);
    expect(validate(parse(await yamlOf('NEW')))).toBe(true);
    expect(validate({ customers: [{ ...wanted, code: 'not a code' }] })).toBe(false);
  });

  it('comes from a file with others, each taken on, changed or left; what is left out is as usual', async () => {
    const text = (await yamlOf('NEW')).replace('name: Newly There', 'name: Newly Elsewhere');
    const more = `${text}  - code: ONE\n    name: One More\n    state: trial\n    plan: skiff\n    site: NL\n    zone: Europe/Dublin\n    currency: EUR\n    card: eur\n`;
    const looked = await file(more);
    expect(looked).toMatchObject({ kept: false, faults: [] });
    expect(looked.customers.map(({ code, outcome, changed }) => [code, outcome, changed])).toEqual([
      ['NEW', 'changed', ['name']],
      ['ONE', 'new', []],
    ]);
    expect((await call('GET', '/customers/ONE')).status).toBe(404);
    expect(await file(more, 'all')).toMatchObject({ kept: true });
    expect((await call('GET', '/customers/ONE/about')).body).toMatchObject({ state: 'trial', ...NO_DETAILS });
    // Of whom nothing more is said, a file can be read back too.
    expect(await file(await yamlOf('ONE'))).toMatchObject({ faults: [], customers: [{ outcome: 'same' }] });
    // Sent again, as after it was cut off: nothing is done twice.
    expect((await file(more, 'all')).customers.map(({ outcome }) => outcome)).toEqual(['same', 'same']);
  });

  it('is told by line and column what a file has wrong, and nothing of it is kept', async () => {
    const text = [
      'customers:',
      '  - code: TWO',
      '    name: Two',
      '    state: active',
      '    plan: nothing',
      '    site: KQ',
      '    zone: Europe/Nowhere',
      '    currency: EUR',
      '    card: eur',
      '  - code: THREE',
      '    name: Three',
      '    state: active',
      '    plan: jetty',
      '    site: KQ',
      '    zone: Europe/Dublin',
      '    currency: EUR',
      '    card: gbp',
      '',
    ].join('\n');
    const outcome = await file(text, 'all');
    expect(outcome.kept).toBe(false);
    expect(outcome.faults.map(({ line, path, says }) => [line, path, says])).toEqual([
      [7, 'customers.0.zone', 'is not an IANA time zone'],
      [17, 'customers.1.card', 'is in GBP'],
    ]);
    expect((await call('GET', '/customers/THREE')).status).toBe(404);
    const faultsOf = async (yaml: string) =>
      (await file(yaml, 'all')).faults.map(({ line, says }) => [line, says]);
    expect(await faultsOf(text.replace('    plan: nothing\n', ''))).toEqual([[2, 'plan is missing']]);
    expect(await faultsOf(text.replace('    name: Two', '    nmae: Two'))).toEqual([
      [2, 'name is missing'],
      [3, 'is not known here'],
    ]);
    expect(await faultsOf('customers: [')).toEqual([[1, expect.any(String)]]);
    expect(await faultsOf('people: 3')).toEqual([[1, 'begins with "customers:", and a list of them']]);
    expect(await faultsOf('')).toEqual([[1, 'begins with "customers:", and a list of them']]);
    const bomb = `a: &a [x,x,x,x,x,x,x,x,x,x]\nb: &b [*a,*a,*a,*a,*a,*a,*a,*a,*a,*a]\nc: &c [*b,*b,*b,*b,*b,*b,*b,*b,*b,*b]\ncustomers: [*c,*c,*c,*c,*c,*c,*c,*c,*c,*c]`;
    expect(await faultsOf(bomb)).toEqual([[1, 'it repeats itself too often']]);
    expect(await faultsOf((await yamlOf('NEW')).replace('plan: jetty', 'plan: skiff'))).toEqual([
      [6, 'is jetty; it is changed on the customer’s page'],
    ]);
    expect(
      await faultsOf(`${await yamlOf('NEW')}${(await yamlOf('NEW')).split('\n').slice(2).join('\n')}`),
    ).toEqual([[expect.any(Number), 'NEW is there twice']]);
  });

  it('from a file of someone who does not reach it is not changed, nor told of', async () => {
    const { body } = await world.call('jonah', 'POST', '/customers/file?keep=all', {
      yaml: (await yamlOf('NEW')).replace('name: Newly', 'name: Taken'),
    });
    expect(JSON.stringify(body)).not.toContain('Elsewhere');
    expect((await call('GET', '/customers/NEW')).body.name).toBe('Newly Elsewhere');
  });

  it('taken on by who reaches some customers is reached by them from then on', async () => {
    const body = { ...wanted, code: 'JON', name: 'Jonah’s Own' };
    expect((await world.call('jonah', 'POST', '/customers', { body })).status).toBe(201);
    expect((await world.call('jonah', 'GET', '/customers/JON')).status).toBe(200);
    expect((await world.call('jonah', 'GET', '/customers/NEW')).status).toBe(404);
  });

  it('half filled in is kept, gone on with by another, and dropped', async () => {
    const path = '/customer-drafts/01ARZ3NDEKTSV4RRFFQ69G5FAV';
    expect((await call('PUT', path, { fields: { code: 'HLF', name: 'Half' } })).status).toBe(204);
    await world.call('bram', 'PUT', path, { body: { fields: { code: 'HLF', name: 'Half Done' } } });
    const drafts = async () => (await call('GET', '/customer-drafts')).body.drafts as readonly Draft[];
    expect(await drafts()).toMatchObject([
      { title: 'Half Done', by: 'Bram Oyelaran', fields: { code: 'HLF' } },
    ]);
    expect((await world.call('runa', 'GET', '/customer-drafts')).status).toBe(403);
    // Who reaches some customers sees and touches only what they began themselves.
    expect((await world.call('jonah', 'GET', '/customer-drafts')).body.drafts).toEqual([]);
    expect((await world.call('jonah', 'PUT', path, { body: { fields: {} } })).status).toBe(404);
    expect((await world.call('jonah', 'DELETE', path)).status).toBe(404);
    expect((await call('DELETE', path)).status).toBe(204);
    expect((await call('DELETE', path)).status).toBe(404);
    expect(await drafts()).toEqual([]);
  });

  it('comes five hundred from one file, within what a request may take, each by itself', async () => {
    const entry = (n: number): string =>
      `  - { code: F${n}, name: Fleet ${n}, state: active, plan: jetty, site: KQ, zone: Europe/Dublin, currency: EUR, card: eur }`;
    const text = `customers:\n${Array.from({ length: 500 }, (_, n) => entry(n)).join('\n')}\n`;
    const outcome = await file(text, 'all');
    expect([outcome.kept, outcome.customers.length]).toEqual([true, 500]);
    const trail = await world.app.db.row<{ n: number }>(
      "SELECT COUNT(*) AS n FROM trail WHERE action = 'take on customer' AND subject LIKE 'Fleet %'",
    );
    expect(trail?.n).toBe(500);
  });
});

describe('a file of customers', { timeout: 60_000 }, () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('customers-file');
  });
  afterAll(() => world.close());

  const send = (yaml: string, key: string) =>
    world.call('ida', 'POST', '/customers/file?keep=all', { yaml, headers: { 'idempotency-key': key } });
  const codes = async (): Promise<string[]> =>
    (await world.app.db.rows<{ code: string }>("SELECT code FROM customer WHERE kind = 'customer'")).map(
      ({ code }) => code,
    );
  const yamlOf = async (code: string): Promise<string> =>
    (await world.call('ida', 'GET', `/customers/${code}/about.yaml`)).text;
  const fileOf = (...named: string[]): string =>
    `customers:\n${named
      .map(
        (code) => `  - code: ${code}
    name: The ${code}
    state: active
    plan: jetty
    site: KQ
    zone: Europe/Dublin
    currency: EUR
    card: eur
`,
      )
      .join('')}`;

  it('is taken in once by one key, also when it comes twice at the same moment', async () => {
    const file = fileOf('AAA', 'BBB');
    const both = await Promise.all([send(file, 'one'), send(file, 'one')]);
    expect(both.map(({ status }) => status)).toEqual([200, 200]);
    expect(both[0].body).toEqual(both[1].body);
    expect((await send(file, 'one')).body).toEqual(both[0].body);
    expect((await codes()).filter((code) => ['AAA', 'BBB'].includes(code)).sort()).toEqual(['AAA', 'BBB']);
    // By another key it is the same file once more: nothing is new in it.
    const again = (await send(file, 'two')).body.customers as readonly { outcome: string }[];
    expect(again.map(({ outcome }) => outcome)).toEqual(['same', 'same']);
  });

  it('is taken in whole or not at all: what breaks at the last one leaves none of the others', async () => {
    const before = await codes();
    const changed = (await yamlOf('SVG')).replace('Saltmirren', 'Saltmarsh');
    const file = changed + (fileOf('CCC', 'DDD').split('customers:\n')[1] ?? '');
    // Another takes the code of the last one on, after the file was looked at.
    await world.app.db.write(
      `CREATE TRIGGER no_ddd BEFORE INSERT ON summary FOR EACH ROW
       IF (SELECT COUNT(*) FROM customer WHERE code = 'DDD' AND id = NEW.customer_id) > 0
       THEN SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'refused by a test'; END IF`,
    );
    expect((await send(file, 'three')).status).toBeGreaterThanOrEqual(500);
    expect(await codes()).toEqual(before);
    expect(await yamlOf('SVG')).toContain('Saltmirren');
    await world.app.db.write('DROP TRIGGER no_ddd');
    // Sent again with its key, it is taken in whole.
    expect((await send(file, 'three')).body.kept).toBe(true);
    expect(await codes()).toEqual(expect.arrayContaining(['CCC', 'DDD']));
    expect(await yamlOf('SVG')).toContain('Saltmarsh');
  });
});
