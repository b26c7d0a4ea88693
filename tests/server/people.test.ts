import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { peopleCsv, peopleOf } from '../../src/demo/people';
import { openWorld, raise, type World } from './setup/world';

describe('importing people', () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('people');
    await raise(world, 'CAO', 'people', 2_000);
  });
  afterAll(() => world.close());

  const send = (csv: string, keep = 'all') =>
    world.call('ida', 'POST', `/customers/CAO/people/import?keep=${keep}`, { csv });
  const known = async (): Promise<number> => {
    const { body } = await world.call('ida', 'GET', '/customers/CAO/people?limit=1000');
    return body.entries.length;
  };

  it('takes 800 rows in one go', async () => {
    const { status, body } = await send(peopleCsv(peopleOf('CAO', 800)));
    expect(status).toBe(200);
    expect(body).toMatchObject({ kept: true, good: 800, added: 800, changed: 0, bad: [] });
    expect(await known()).toBe(800);
  });

  it('adds nobody twice and changes only who has changed', async () => {
    const people = peopleOf('CAO', 800).map((one, i) => (i === 5 ? { ...one, family: 'Newname' } : one));
    expect((await send(peopleCsv(people))).body).toMatchObject({ kept: true, added: 0, changed: 1 });
    expect(await known()).toBe(800);
  });

  it('keeps nothing of a file with bad rows until told to, and then names them by line', async () => {
    const file =
      'account,given,family,mail\r\nnew.one,New,One,new.one@cao.example\r\nbad one,Bad,One,x@cao.example\r\n,No,Account,y@cao.example\r\n';
    const first = await send(file);
    expect(first.body).toMatchObject({ kept: false, good: 1 });
    expect((first.body.bad as { line: number }[]).map((one) => one.line)).toEqual([3, 4]);
    expect(await known()).toBe(800);
    expect((await send(file, 'good')).body).toMatchObject({ kept: true, added: 1 });
    expect(await known()).toBe(801);
  });

  it('reads LDIF too (RFC 2849): people alone, and what is wrong by its line', async () => {
    const file =
      'version: 1\n\ndn: ou=Assay,dc=cao,dc=example\nobjectClass: organizationalUnit\nou: Assay\n\n' +
      'dn: uid=ldif.one,ou=Assay,dc=cao,dc=example\nobjectClass: inetOrgPerson\nuid: ldif.one\ngivenName:: TMOpYQ==\nsn: Assay\nmail: lea@cao.example\n\n' +
      'dn: uid=ldif.two,dc=cao,dc=example\nchangetype: delete\n';
    expect((await send(file)).body).toMatchObject({ kept: false, good: 1, bad: [{ line: 15 }] });
    expect((await send(file, 'good')).body).toMatchObject({ kept: true, added: 1 });
    const { body } = await world.call('ida', 'GET', '/customers/CAO/people?find=ldif');
    expect(body.entries).toMatchObject([{ account: 'ldif.one', given: 'Léa' }]);
  });

  // RFC 4180 section 2: quoted fields may hold commas, line breaks and doubled quotes; the header may be in any order here.
  it('reads what RFC 4180 allows, with the right line numbers after a quoted line break', async () => {
    const file =
      'mail,family,given,account\r\nq@cao.example,"Brack, ""Old""",Quill,quoted.one\r\n' +
      'r@cao.example,"Two\r\nlines",Quill,quoted.two\r\nno-mail,Y,X,x.y\r\n';
    const { body } = await send(file, 'good');
    expect(body).toMatchObject({
      added: 1,
      bad: [
        // A name stands on one line.
        { line: 3, reason: 'holds a control character' },
        { line: 5, reason: '"no-mail" is not a mail address' },
      ],
    });
    const { body: found } = await world.call('ida', 'GET', '/customers/CAO/people?find=quoted');
    expect(found.entries[0]).toMatchObject({ family: 'Brack, "Old"' });
  });

  it('counts lines alike whatever ends them', async () => {
    for (const end of ['\n', '\r\n']) {
      const { body } = await send(
        ['account,given,family,mail', '', 'bad one,B,O,b@cao.example', 'bad two,B,T,t@cao.example'].join(end),
      );
      expect((body.bad as { line: number }[]).map((one) => one.line)).toEqual([3, 4]);
    }
  });

  it('comes out as it went in', async () => {
    const { text } = await world.call('ida', 'GET', '/customers/CAO/people.csv');
    expect((await send(text)).body).toMatchObject({ kept: true, added: 0, changed: 0, bad: [] });
  });

  it('are taken away as a file by nobody but who works with them, and that is on the trail', async () => {
    const taken = async (): Promise<unknown[]> =>
      (await world.call('bram', 'GET', '/customers/CAO/trail?find=download file')).body.entries.map((one) => {
        const { actor, subject } = one as { actor: string; subject: string };
        return [actor, subject];
      });
    const before = await taken();
    for (const who of ['petra', 'runa'] as const)
      expect((await world.call(who, 'GET', '/customers/CAO/people.csv')).status).toBe(403);
    expect((await world.call('jonah', 'GET', '/customers/CAO/people.csv')).status).toBe(404);
    expect(await taken()).toEqual(before);
    await world.call('bram', 'GET', '/customers/CAO/people.csv');
    expect(await taken()).toEqual([['Bram Oyelaran', 'CAO-people.csv'], ...before]);
  });

  it.each([
    ['', 'the file is empty'],
    ['name,mail\nx,y', 'missing: account, given, family'],
    ['account,given,family,mail\n"broken', 'Quote Not Closed'],
  ])('says what is wrong with a file that is none: %j', async (file, why) => {
    const { status, body } = await send(file);
    expect(status).toBe(422);
    expect(body.detail).toContain(why);
  });

  it('pages through everyone, in order, without gap or double', async () => {
    const accounts: string[] = [];
    for (let after = ''; ;) {
      const { body } = await world.call(
        'ida',
        'GET',
        `/customers/CAO/people?limit=97${after === '' ? '' : `&after=${after}`}`,
      );
      accounts.push(...(body.entries as { account: string }[]).map((one) => one.account));
      if (typeof body.next !== 'string') break;
      after = body.next;
    }
    expect(accounts).toHaveLength(803);
    expect(new Set(accounts).size).toBe(803);
  });
});
