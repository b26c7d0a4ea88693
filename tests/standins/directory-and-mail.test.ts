import type { Server } from 'node:http';
import { inject } from 'vitest';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { freePort } from '../../scripts/lib.mjs';
import { httpDirectory, type Directory } from '../../src/server/directory';
import { httpMail, type Mail } from '../../src/server/mail';
import type { Store } from '../../src/standins/kit/database';
import { startDirectory } from '../../src/standins/directory/start';
import { startMail } from '../../src/standins/mail/start';
import { own } from '../server/setup/ports';

const KEY = 'a key of these tests';

/** The simulated directory and mail, through the ports by which Laager reaches them. */
describe('directory and mail', () => {
  const running: { server: Server; store: Store }[] = [];
  let directory: Directory;
  let mail: Mail;
  let directoryUrl = '';
  let mailUrl = '';

  const address = (database: string) => ({
    host: '127.0.0.1',
    port: inject('databasePort'),
    user: 'root',
    password: '',
    database,
  });

  beforeAll(async () => {
    const port = await freePort(own(4970));
    running.push(await startDirectory(address('standin_directory'), port, KEY));
    directoryUrl = `http://127.0.0.1:${port}`;
    directory = httpDirectory(directoryUrl, KEY);
    const other = await freePort(own(4980));
    running.push(await startMail(address('standin_mail'), other));
    mailUrl = `http://127.0.0.1:${other}`;
    mail = httpMail(mailUrl);
  });
  afterAll(async () => {
    for (const { server, store } of running) {
      server.closeAllConnections();
      await new Promise((resolve) => server.close(resolve));
      await store.close();
    }
  });

  it('know a computer once, whatever its case, and each realm by itself', async () => {
    await directory.join('svg.example', 'SVG-A01');
    await directory.join('svg.example', 'svg-a01');
    await directory.join('mhp.example', 'SVG-A01');
    expect(await directory.computers('svg.example')).toEqual(['SVG-A01']);
    expect(await directory.computers('mhp.example')).toEqual(['SVG-A01']);
    expect(await directory.computers('nobody.example')).toEqual([]);
  });

  it('forget a computer, and are asked twice without harm', async () => {
    await directory.join('svg.example', 'SVG-B01');
    await directory.leave('svg.example', 'SVG-B01');
    await directory.leave('svg.example', 'SVG-B01');
    expect(await directory.computers('svg.example')).not.toContain('SVG-B01');
    expect(await directory.computers('mhp.example')).toEqual(['SVG-A01']);
  });

  it('let nobody in with another key', async () => {
    const stranger = httpDirectory(directoryUrl, 'wrong');
    await expect(stranger.computers('svg.example')).rejects.toThrow();
    await expect(stranger.join('svg.example', 'SVG-C01')).rejects.toThrow();
    expect(await directory.computers('svg.example')).not.toContain('SVG-C01');
  });

  it('send a message once for each id, to everyone it is for', async () => {
    const to = ['quill@mhp.example', 'wenna@mhp.example'];
    const message = { to, subject: 'Your desktop ends', body: 'On Friday at six.' };
    await mail.send('m1', message);
    await mail.send('m1', { ...message, subject: 'Once more' });
    await mail.send('m2', { ...message, to: [] });
    const response = await fetch(`${mailUrl}/messages`);
    const { messages } = (await response.json()) as {
      messages: { id: string; recipients: string; subject: string }[];
    };
    expect(messages.map((one) => [one.id, one.subject])).toEqual([
      ['m1', 'Your desktop ends'],
      ['m2', 'Your desktop ends'],
    ]);
    expect(JSON.parse(messages[0]?.recipients ?? '')).toEqual(to);
  });

  it('say that they do not answer when they are gone', async () => {
    const gone = httpDirectory('http://127.0.0.1:9', KEY);
    await expect(gone.computers('svg.example')).rejects.toThrow(/answer/);
    await expect(
      httpMail('http://127.0.0.1:9').send('m3', { to: [], subject: 's', body: 'b' }),
    ).rejects.toThrow(/answer/);
  });
});
