import Joi from 'joi';
import { offeredItemsSchema } from '../items';
import { termFault, TERMS, type Term, type TermKey } from '../terms';

/** The schema of a term's value, from its limits; what is wrong with one is said as everywhere. */
export function schemaOf(key: TermKey): Joi.Schema {
  const term: Term = TERMS[key];
  const says = `${term.title}: ${term.help}`;
  switch (term.form) {
    case 'figure': {
      const figure = Joi.number().min(term.least).max(term.most);
      return (term.isWhole ? figure.integer() : figure).messages(said(key, 'number')).description(says);
    }
    case 'choice':
      return Joi.string()
        .valid(...term.choices)
        .messages(said(key, 'any'))
        .description(says);
    case 'choices':
      return Joi.array()
        .items(Joi.string().valid(...term.choices))
        .unique()
        .description(says);
    case 'words': {
      const words = Joi.string().trim().min(1).max(term.most);
      return (term.pattern ? words.pattern(term.pattern) : words)
        .messages(said(key, 'string'))
        .description(says);
    }
    case 'items':
      return offeredItemsSchema
        .max(term.most)
        .messages({ 'array.min': termFault(key, []) ?? '' })
        .description(says);
  }
}

const RULES = {
  number: ['base', 'min', 'max', 'integer'],
  any: ['only'],
  string: ['pattern.base', 'empty', 'max'],
} as const;

const said = (key: TermKey, type: keyof typeof RULES): Record<string, string> =>
  Object.fromEntries(RULES[type].map((rule) => [`${type}.${rule}`, termFault(key, undefined) ?? '']));
