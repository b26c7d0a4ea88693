import Joi from 'joi';
import { TAG_NAME } from '../intent';
import { isMap, parseDocument, stringify } from 'yaml';
import { MOST_FAULTS, readDocument, type Fault, type Path } from '../documents';
import type { InputValue } from '../intent';
import { parseRule } from '../naming';
import { ok, refuse, type Result } from '../result';
import { fill, forsOf, inputsUsed, readReference, usualInputs } from './fill';
import { FEATURES, INPUT_TYPES, type PoolDocument, type TemplateDocument, type TemplateInput } from './spec';
import { termFault, TERM_KEYS, TERMS, type TermKey } from '../terms';
import { schemaOf } from './schemas';

export const MOST_TEMPLATE_BYTES = 100_000;
const MOST_POOLS = 50;
const MOST_INPUTS = 30;
/** So long a tag may be, and a text that fills one. */
const MOST_TAG = 120;
const USUAL_TEXT = 80;
/** Beside how many people at most, and for how many from the start. */
export const MOST_SHORT_INPUTS = 2;

/** These are asked of every environment: how many at most, and for how many it is ready from the start. */
export const OWN_INPUTS = ['people', 'ready'] as const;

const reference = Joi.string()
  .pattern(/^=\s*[a-z][a-z0-9-]{0,23}(\s*\*\s*\d{1,4}(\.\d{1,4})?)?$/)
  .messages({ 'string.pattern.base': 'write "=people", or "=people * 0.5"' })
  .description('An input, or so many times it');

const line = (most: number): Joi.StringSchema => Joi.string().trim().min(1).max(most);
const key = Joi.string()
  .pattern(/^[a-z][a-z0-9-]{0,23}$/)
  .messages({ 'string.pattern.base': 'small letters, digits and hyphens, a letter first, 24 at most' });

/** A term's value, or an input where one may fill it. */
function termSchema(term: TermKey): Joi.Schema {
  const { usual, fillable, title, help } = TERMS[term];
  const schema = schemaOf(term);
  const said = fillable ? Joi.alternatives(reference, schema) : schema;
  const described = said.description(`${title}: ${help}`);
  return usual === undefined ? described.required() : described.default(usual);
}

const isTerm = (path: Path): boolean => path.length === 3 && path[0] === 'pools' && path[2] !== 'role';

/** What is wrong with a term that is neither: told of what was meant. */
function neither(path: Path, value: unknown): string {
  const term = TERM_KEYS.find((one) => one === path.at(-1));
  const meant = typeof value === 'string' && value.startsWith('=') ? reference : term && schemaOf(term);
  const { error } = meant?.validate(value, { convert: false, errors: { label: false } }) ?? {};
  return error?.message ?? 'cannot be used here';
}

const poolSchema = Joi.object<PoolDocument>({
  role: key.required().description('Fills {role} in names; also the pool’s name'),
  when: reference.description('It is made only where this input says yes'),
  ...Object.fromEntries(TERM_KEYS.map((term) => [term, termSchema(term)])),
});

/** As it is written: which of these belong together, its type says. */
interface WrittenInput {
  readonly key: string;
  readonly title: string;
  readonly help: string;
  readonly type: TemplateInput['type'];
  readonly short: boolean;
  readonly least?: number;
  readonly most?: number;
  readonly choices?: readonly string[];
  readonly usual?: InputValue;
}

const limit = Joi.number().integer().min(0).max(100_000);

const inputSchema = Joi.object<WrittenInput>({
  key: key
    .invalid(...OWN_INPUTS)
    .required()
    .messages({ 'any.invalid': 'is asked of every environment by itself' }),
  title: line(60).required(),
  help: Joi.string().trim().allow('').max(160).default(''),
  type: Joi.string()
    .valid(...INPUT_TYPES)
    .required()
    .messages({ 'any.only': `is one of ${INPUT_TYPES.join(', ')}` }),
  short: Joi.boolean().default(false).description('Whether the short form asks it'),
  least: limit.description('Of a count'),
  most: limit.description('Of a count; of a text, in characters'),
  choices: Joi.array().items(line(80)).min(1).max(50).unique().description('Of a choice'),
  usual: Joi.alternatives(Joi.number().integer(), Joi.boolean(), line(MOST_TAG).allow('')).description(
    'What it is where nobody says otherwise',
  ),
});

export const templateSchema = Joi.object<TemplateDocument>({
  name: line(80).required().messages({ 'any.required': 'is missing: what is it called?' }),
  says: Joi.string().trim().allow('').max(255).default('').description('What it is for, in one line'),
  called: key.default('office').description('What an environment is called where nobody says otherwise'),
  naming: line(80).required().description('The rule that makes computer names'),
  atATime: Joi.number().integer().min(1).max(50).default(5).description('Steps at a time'),
  failureLimit: Joi.number()
    .integer()
    .min(1)
    .max(1_000)
    .default(2)
    .description('A run stops after so many failed steps'),
  tags: Joi.object()
    .pattern(TAG_NAME, line(MOST_TAG))
    .max(20)
    .default({})
    .description('What its resources are tagged with; "=key": what that input says'),
  features: Joi.array()
    .items(Joi.string().valid(...FEATURES))
    .unique()
    .default([])
    .description('What the customer’s plan has to have'),
  inputs: Joi.array().items(inputSchema).max(MOST_INPUTS).unique('key').default([]),
  pools: Joi.array()
    .items(poolSchema)
    .min(1)
    .max(MOST_POOLS)
    .unique((a: PoolDocument, b: PoolDocument) => a.role === b.role)
    .required()
    .messages({ 'array.min': 'a template has at least one pool' }),
})
  .required()
  .messages({ 'object.base': 'begins with "name:", and what it is called' });

/**
 * Reads a template written as YAML; refuses it with each fault at its line.
 * @param text up to 100,000 bytes
 * @example
 * readTemplate('name: Office\nnaming: "{customer}{counter:3}"\npools:\n  - role: desks\n    image: office\n    people: =people\n').ok // true
 */
export function readTemplate(text: string): Result<TemplateDocument, readonly Fault[]> {
  const { value, faults, faultAt, isEmpty } = readDocument(text);
  if (faults.length > 0) return refuse(faults);
  if (new TextEncoder().encode(text).length > MOST_TEMPLATE_BYTES)
    return refuse([faultAt([], `is longer than ${MOST_TEMPLATE_BYTES} bytes`)]);
  const { error, value: read } = templateSchema.validate(value, {
    abortEarly: false,
    errors: { label: false },
    convert: false,
  });
  if (error)
    return refuse(
      error.details.slice(0, MOST_FAULTS).map(({ path, message, type, context }) => {
        if (type === 'object.unknown') return faultAt(path, 'is not known here');
        if (type === 'array.unique') return faultAt(path, 'is there twice');
        if (isTerm(path) && !isEmpty(path) && type !== 'any.required')
          return faultAt(path, neither(path, context?.value));
        return faultAt(path, isEmpty(path) && path.length > 0 ? 'is empty' : message);
      }),
    );
  const wrong = (read.inputs as readonly WrittenInput[]).flatMap((input, at) =>
    inputFaults(input).map(([field, says]) => faultAt(['inputs', at, field], says)),
  );
  if (wrong.length > 0) return refuse(wrong);
  const document = settled(read);
  const found = faultsOf(document).map(({ path, says }) => faultAt(path, says));
  return found.length > 0 ? refuse(found.slice(0, MOST_FAULTS)) : ok(document);
}

/** Where everyone has a host of their own, there is one seat on each and nobody stands by. */
function settled(document: TemplateDocument): TemplateDocument {
  return {
    ...document,
    inputs: document.inputs.map(settledInput),
    pools: document.pools.map((pool) =>
      pool.kind === 'personal' && (pool.mostSeats === TERMS.mostSeats.usual || pool.mostSeats === 1)
        ? { ...pool, mostSeats: 1, concurrency: 1 }
        : pool,
    ),
  };
}

const settledInput = (input: TemplateInput): TemplateInput => {
  switch (input.type) {
    case 'count':
      return { ...input, least: (input as WrittenInput).least ?? 0 };
    case 'yes':
      return { ...input, usual: (input as WrittenInput).usual === true };
    case 'choice':
      return input;
    case 'group':
      return { ...input, usual: '' };
    case 'text': {
      const { most = USUAL_TEXT, usual = '' } = input as Partial<typeof input>;
      return { ...input, most, usual };
    }
  }
};

interface FoundFault {
  readonly path: Path;
  readonly says: string;
}

/** What is wrong with a document whose parts are each well written. */
export function faultsOf(document: TemplateDocument): FoundFault[] {
  const { inputs, pools, naming } = document;
  const faults: FoundFault[] = [];
  const add = (path: Path, says: string): void => void faults.push({ path, says });
  const rule = parseRule(naming);
  if (!rule.ok) add(['naming'], rule.problem);
  inputs.forEach((input, at) => {
    if (!inputsUsed(document).has(input.key)) add(['inputs', at, 'key'], `nothing says =${input.key}`);
  });
  for (const [name, value] of Object.entries(document.tags))
    for (const says of tagFaults(document, value)) add(['tags', name], says);
  inputs
    .flatMap((input, at) => (input.short ? [at] : []))
    .slice(MOST_SHORT_INPUTS)
    .forEach((at) =>
      add(['inputs', at, 'short'], `the short form asks ${MOST_SHORT_INPUTS} of them at most`),
    );
  pools.forEach((pool, at) => {
    if (pool.kind === 'personal' && pool.mostSeats !== 1)
      add(['pools', at, 'mostSeats'], 'where everyone has a host of their own, there is one seat on each');
    for (const says of forFaults(document, pool)) add(['pools', at, 'items'], says);
    for (const term of [...TERM_KEYS, 'when'] as const)
      for (const says of referenceFaults(document, pool[term], term)) add(['pools', at, term], says);
  });
  if (faults.length === 0) {
    const filled = fill(document, usualInputs(document));
    if (!filled.ok) add(['inputs'], Object.values(filled.problem).join('; '));
  }
  return faults;
}

const FIELDS = ['least', 'most', 'choices', 'usual'] as const;
const BELONG: Readonly<Record<TemplateInput['type'], readonly string[]>> = {
  count: ['least', 'most', 'usual'],
  choice: ['choices', 'usual'],
  yes: ['usual'],
  group: [],
  text: ['most', 'usual'],
};

/** What is wrong with an input, by its field. */
function inputFaults(input: WrittenInput): (readonly [field: string, says: string])[] {
  const { type, least = 0, most, choices, usual } = input;
  const strange = FIELDS.filter((field) => input[field] !== undefined && !BELONG[type].includes(field));
  if (strange.length > 0)
    return strange.map((field) => [field, `does not belong to an input of type ${type}`] as const);
  switch (type) {
    case 'count':
      if (most === undefined) return [['most', 'is missing: how many at most?']];
      if (least > most) return [['least', 'is above the most']];
      return typeof usual === 'number' && usual >= least && usual <= most
        ? []
        : [['usual', `is a whole number from ${least} to ${most}`]];
    case 'choice':
      if (!choices) return [['choices', 'are missing']];
      return choices.some((one) => one === usual) ? [] : [['usual', `is one of ${choices.join(', ')}`]];
    case 'yes':
      return usual === undefined || typeof usual === 'boolean' ? [] : [['usual', 'is true or false']];
    case 'group':
      return [];
    case 'text':
      if (most !== undefined && (most < 1 || most > MOST_TAG)) return [['most', `is from 1 to ${MOST_TAG}`]];
      return usual === undefined || (typeof usual === 'string' && usual.length <= (most ?? USUAL_TEXT))
        ? []
        : [['usual', `is text of at most ${most ?? USUAL_TEXT} characters`]];
  }
}

/** A tag is filled with words, a figure or a choice, as it is said. */
function tagFaults({ inputs }: TemplateDocument, value: string): string[] {
  const said = readReference(value);
  if (!said) return [];
  const input = inputs.find((one) => one.key === said.key);
  if (!input && !OWN_INPUTS.some((own) => own === said.key)) return [`there is no input ${said.key}`];
  if (said.times !== 1) return ['a tag is not reckoned with: write the input alone'];
  if (input?.type === 'group') return [`${said.key} is a group: it says for whom an item is`];
  return input?.type === 'yes' ? [`${said.key} is answered by yes or no`] : [];
}

/** What is said of for whom items are, and names no group. */
const forFaults = ({ inputs }: TemplateDocument, pool: PoolDocument): string[] =>
  forsOf(pool).flatMap((said) => {
    const key = readReference(said)?.key;
    if (key === undefined) return [`"${said}" is nobody's: write "=key" of an input that names a group`];
    const input = inputs.find((one) => one.key === key);
    if (!input) return [`there is no input ${key}`];
    return input.type === 'group' ? [] : [`${key} names no group`];
  });

function referenceFaults({ inputs }: TemplateDocument, value: unknown, term: TermKey | 'when'): string[] {
  const said = readReference(value);
  if (!said) return [];
  const isOwn = OWN_INPUTS.some((own) => own === said.key);
  const input = inputs.find((one) => one.key === said.key);
  if (!isOwn && !input) return [`there is no input ${said.key}`];
  const type = input?.type ?? 'count';
  if (term === 'when') return type === 'yes' ? [] : [`${said.key} is not answered by yes or no`];
  if (type === 'yes') return [`${said.key} is answered by yes or no: say it with "when"`];
  if (type === 'text') return [`${said.key} is free text: it fills tags alone`];
  if (type === 'group') return [`${said.key} is a group: it says for whom an item is`];
  const isFigure = TERMS[term].form === 'figure';
  if (isFigure && type !== 'count') return [`${said.key} is no figure`];
  if (!isFigure && (type !== 'choice' || said.times !== 1)) return [`${said.key} is a figure`];
  if (input?.type !== 'choice') return [];
  return input.choices
    .filter((choice) => termFault(term, choice) !== undefined)
    .map((choice) => `${choice} of ${said.key} cannot be used here`);
}

const isUsual = (term: TermKey, pool: PoolDocument): boolean => {
  const { usual } = TERMS[term];
  if (pool.kind === 'personal' && (term === 'mostSeats' || term === 'concurrency')) return true;
  return usual !== undefined && JSON.stringify(pool[term]) === JSON.stringify(usual);
};

function writtenInput({ help, short, ...input }: TemplateInput): Record<string, unknown> {
  const { least, most, usual, ...rest }: Record<string, unknown> = input;
  const isUsualText = (input.type === 'text' || input.type === 'group') && usual === '';
  return {
    ...rest,
    ...(most === undefined || (input.type === 'text' && most === USUAL_TEXT) ? {} : { most }),
    ...(isUsualText ? {} : { usual }),
    ...(least === undefined || least === 0 ? {} : { least }),
    ...(help === '' ? {} : { help }),
    ...(short ? { short } : {}),
  };
}

const USUAL = { says: '', called: 'office', atATime: 5, failureLimit: 2 } as const;

/** A template as YAML: read again, it is the same. What is as usual is left out. */
export function writeTemplate(document: TemplateDocument): string {
  const { tags, features, inputs, pools, name, says, called, naming, atATime, failureLimit } = document;
  const written = {
    name,
    ...(says === USUAL.says ? {} : { says }),
    ...(called === USUAL.called ? {} : { called }),
    naming,
    ...(atATime === USUAL.atATime ? {} : { atATime }),
    ...(failureLimit === USUAL.failureLimit ? {} : { failureLimit }),
    ...(Object.keys(tags).length === 0 ? {} : { tags }),
    ...(features.length === 0 ? {} : { features }),
    ...(inputs.length === 0 ? {} : { inputs: inputs.map(writtenInput) }),
    pools: pools.map((pool) => ({
      role: pool.role,
      ...(pool.when === undefined ? {} : { when: pool.when }),
      ...Object.fromEntries(
        TERM_KEYS.filter((term) => !isUsual(term, pool)).map((term) => [term, pool[term]]),
      ),
    })),
  };
  return stringify(written, { lineWidth: 110, aliasDuplicateObjects: false });
}

/**
 * A text with one thing in it otherwise, comments and order kept. @param value undefined: it is taken out
 * @example
 * editedText('name: A # ours\n', ['name'], 'B') // 'name: B # ours\n'
 */
export function editedText(text: string, path: Path, value: unknown): string {
  const document = parseDocument(text, { uniqueKeys: false });
  if (document.errors.length > 0 || !isMap(document.contents)) return text;
  if (value === undefined) document.deleteIn(path);
  else document.setIn(path, typeof value === 'object' ? document.createNode(value) : value);
  return document.toString({ lineWidth: 110 });
}
