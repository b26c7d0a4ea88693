import { describe, expect, it } from 'vitest';
import { ApiProblem } from '../../src/client/problem';
import { changedMeanwhile, nowStored, storedAs, tagFor } from '../../src/client/stored';
import { etagOf } from '../../src/contract/etag';

const refusal = (current: unknown): ApiProblem =>
  new ApiProblem(412, 'changed', 'Somebody else has saved this meanwhile.', {}, { current });

describe('the tag of stored values', () => {
  it('is the same whatever the order of their keys, and whatever is not written', () => {
    const one = { name: 'a', calendar: { country: 'IE', region: '' }, gone: undefined };
    expect(etagOf(one)).toBe(etagOf({ calendar: { region: '', country: 'IE' }, name: 'a' }));
  });

  it.each([
    [{ a: [1, 2] }, { a: [2, 1] }],
    [{ a: '1' }, { a: 1 }],
    [{ a: null }, {}],
    [null, {}],
    [{ a: 'é' }, { a: 'e\u0301' }],
  ])('is another for %j and %j', (one, other) => expect(etagOf(one)).not.toBe(etagOf(other)));

  it('is an entity tag (RFC 9110, section 8.8.3)', async () =>
    expect(await tagFor(storedAs({ name: 'ß “quoted”' }))).toMatch(/^"[\x21\x23-\x7e]+"$/));
});

describe('a form whose values somebody else has changed', () => {
  it('says which, and what they hold now; the rest of what it said stays', () => {
    const stored = storedAs({ name: 'Harbour', gatewayName: '', contacts: [] });
    const said = changedMeanwhile(
      stored,
      refusal({ name: 'Harbour', gatewayName: 'desks.example', contacts: [{ name: 'Wenna' }] }),
    );
    expect(said.message).toBe(
      'Somebody else saved this meanwhile: gateway name, contacts. Save again to overwrite it, or reload the page.',
    );
    expect(said.fields).toEqual({
      gatewayName: 'somebody else changed this to “desks.example”; save again to overwrite it',
      contacts: 'somebody else changed this; save again to overwrite it',
    });
  });

  it('is meant when it is saved again', async () => {
    const stored = storedAs({ name: 'Harbour' });
    changedMeanwhile(stored, refusal({ name: 'Port' }));
    expect(await tagFor(stored)).toBe(`"${etagOf({ name: 'Port' })}"`);
  });

  it('makes nothing of another refusal', () => {
    const stored = storedAs({ name: 'Harbour' });
    const other = new ApiProblem(422, 'invalid', 'no', { name: 'is empty' }, {});
    expect([changedMeanwhile(stored, other), stored]).toEqual([other, storedAs({ name: 'Harbour' })]);
  });

  it('knows what it has saved itself by the tag that came with the answer', async () => {
    const stored = storedAs({ name: 'Harbour' });
    nowStored(stored, { name: ' Port ', reason: 'x' }, '"of-the-server"');
    expect(await tagFor(stored)).toBe('"of-the-server"');
  });

  it('names only what is stored, also after it has saved itself', () => {
    const stored = storedAs({ name: 'Harbour' });
    nowStored(stored, { name: 'Port', reason: 'renamed', secret: 'x' }, '"t"');
    expect(Object.keys(changedMeanwhile(stored, refusal({ name: 'Quay' })).fields)).toEqual(['name']);
  });

  it('knows that what it replaces is gone', () => {
    const said = changedMeanwhile(storedAs({ issuer: 'https://id.example' }), refusal(null));
    expect(said.fields).toEqual({ issuer: 'somebody else changed this; save again to overwrite it' });
  });

  it('knows that there was nothing, and that there is something now', async () => {
    const stored = storedAs(null);
    expect(await tagFor(stored)).toBe(`"${etagOf(null)}"`);
    expect(Object.keys(changedMeanwhile(stored, refusal({ text: 'steps' })).fields)).toEqual(['text']);
  });
});
