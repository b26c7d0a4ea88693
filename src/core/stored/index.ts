import type Joi from 'joi';

/* Documents that are kept for years: each carries the number of its format, and is read through its schema and upgrades. */

/** A stored document that cannot be read: what it is and where it is wrong, never what stands in it. */
export class StoredDocumentError extends Error {}

export interface StoredForm<Value> {
  /** The format that is written, from 1. */
  readonly format: number;
  /** @throws StoredDocumentError for what is no such document, and for a format that is newer than this program */
  read(text: string): Value;
  /** @throws StoredDocumentError for what the schema refuses: it could not be read again */
  write(value: Value): string;
}

/** Brings a document from one format to the next; given what an older version wrote, so it takes nothing for granted. */
export type Upgrade = (document: Readonly<Record<string, unknown>>) => Readonly<Record<string, unknown>>;

/** The key under which a document says its format. What has none was written before formats were counted: it is format 1. */
const FORMAT = 'format';

/**
 * How documents of one sort are kept.
 * @param name what one is called, for errors: `intent`
 * @param upgrades from format 1 to 2, from 2 to 3, …; a document is written in the format after the last of them
 * @example
 * storedForm({ name: 'note', schema: Joi.object({ text: Joi.string() }), upgrades: [] }).write({ text: 'a' }) // '{"format":1,"text":"a"}'
 */
export function storedForm<Value extends object>({
  name,
  schema,
  upgrades,
}: {
  readonly name: string;
  readonly schema: Joi.ObjectSchema<Value>;
  readonly upgrades: readonly Upgrade[];
}): StoredForm<Value> {
  const newest = upgrades.length + 1;
  const checked = (document: unknown): Value => {
    const { error, value } = schema.validate(document, { convert: false, errors: { render: false } });
    const [first] = error?.details ?? [];
    if (first)
      throw new StoredDocumentError(
        `${name}: ${first.path.map(String).join('.') || 'the whole'} (${first.type})`,
      );
    // A schema that converts nothing gives back what it was given.
    return value as Value;
  };
  return {
    format: newest,
    read: (text) => {
      const { [FORMAT]: said = 1, ...document } = parsed(name, text);
      if (typeof said !== 'number' || !Number.isInteger(said) || said < 1)
        throw new StoredDocumentError(`${name}: its format is no number`);
      if (said > newest)
        throw new StoredDocumentError(
          `${name}: it is of format ${said}, this program reads up to ${newest}: upgrade it`,
        );
      return checked(upgrades.slice(said - 1).reduce((before, upgrade) => upgrade(before), document));
    },
    write: (value) => JSON.stringify({ [FORMAT]: newest, ...checked(value) }),
  };
}

function parsed(name: string, text: string): Record<string, unknown> {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    throw new StoredDocumentError(`${name}: it is no JSON`);
  }
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    throw new StoredDocumentError(`${name}: it is no JSON object`);
  return value as Record<string, unknown>;
}
