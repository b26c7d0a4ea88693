import fc from 'fast-check';
import Joi from 'joi';
import { describe, expect, it } from 'vitest';
import { storedForm, StoredDocumentError } from '../../src/core/stored';

interface Note {
  readonly text: string;
  readonly tags: readonly string[];
}

const schema = Joi.object<Note>({
  text: Joi.string().allow('').required(),
  tags: Joi.array().items(Joi.string().allow('')).required(),
});

/** Format 1 had one `tag`, format 2 called them `labels`. */
const form = storedForm<Note>({
  name: 'note',
  schema,
  upgrades: [
    ({ tag, ...rest }) => ({ ...rest, labels: tag === undefined ? [] : [tag] }),
    ({ labels, ...rest }) => ({ ...rest, tags: labels }),
  ],
});

const faultOf = (read: () => unknown): string => {
  try {
    read();
    return 'none';
  } catch (error) {
    if (error instanceof StoredDocumentError) return error.message;
    throw error;
  }
};

describe('documents that are kept', () => {
  it('are read as they were written', () => {
    fc.assert(
      fc.property(fc.record({ text: fc.string(), tags: fc.array(fc.string()) }), (note) => {
        expect(form.read(form.write(note))).toEqual(note);
      }),
    );
  });

  it('say their format, which is the one after the last upgrade', () => {
    expect(form.format).toBe(3);
    expect(JSON.parse(form.write({ text: 'a', tags: [] }))).toEqual({ format: 3, text: 'a', tags: [] });
  });

  it('are brought on from every format that there was', () => {
    const wanted = { text: 'a', tags: ['x'] };
    expect(form.read('{"text":"a","tag":"x"}')).toEqual(wanted);
    expect(form.read('{"format":1,"text":"a","tag":"x"}')).toEqual(wanted);
    expect(form.read('{"format":2,"text":"a","labels":["x"]}')).toEqual(wanted);
    expect(form.read('{"format":3,"text":"a","tags":["x"]}')).toEqual(wanted);
  });

  it('of a later format are refused, with what to do', () => {
    expect(faultOf(() => form.read('{"format":4,"text":"a","tags":[]}'))).toContain('upgrade it');
  });

  it('are refused where they are none, at the place and without what stands there', () => {
    expect(faultOf(() => form.read('{'))).toBe('note: it is no JSON');
    for (const text of ['[]', 'null', '"a"', '7'])
      expect(faultOf(() => form.read(text))).toBe('note: it is no JSON object');
    for (const format of ['0', '-1', '1.5', '"3"', 'null'])
      expect(faultOf(() => form.read(`{"format":${format},"text":"a"}`))).toContain('no number');
    const secret = faultOf(() => form.read('{"format":3,"text":"a","tags":["x",{"key":"hunter2"}]}'));
    expect(secret).toBe('note: tags.1 (string.base)');
    expect(faultOf(() => form.read('{"format":3,"text":"a","tags":[],"more":"hunter2"}'))).toBe(
      'note: more (object.unknown)',
    );
  });

  it('are never written so that they could not be read again', () => {
    expect(faultOf(() => form.write({ text: 'a' } as unknown as Note))).toBe('note: tags (any.required)');
  });

  it('do not take what they hold for what it looks like', () => {
    expect(faultOf(() => form.read('{"format":3,"text":7,"tags":[]}'))).toBe('note: text (string.base)');
  });
});
