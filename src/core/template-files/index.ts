import Joi from 'joi';
import { stringify } from 'yaml';
import { MOST_FAULTS, readDocument, type Fault } from '../documents';
import type { ImageLine } from '../images';
import { readRecipe } from '../recipes';
import { ok, refuse, type Result } from '../result';
import { readTemplate, type TemplateDocument } from '../templates';

/** An image as it goes from one Laager to another: what it is made of and how, and none of its versions. */
export interface FiledImage extends Pick<
  ImageLine,
  'code' | 'name' | 'says' | 'from' | 'recipe' | 'keep' | 'diskGiB' | 'licences'
> {
  /** What the size that it is built on holds. */
  readonly vcpu: number;
  readonly memoryGiB: number;
}

export interface FiledTemplate {
  readonly code: string;
  readonly note: string;
  /** YAML, as it was published. */
  readonly text: string;
}

/** Templates with all that they refer to. */
export interface TemplateFile {
  readonly templates: readonly FiledTemplate[];
  readonly images: readonly FiledImage[];
}

const code = (most: number): Joi.StringSchema =>
  Joi.string()
    .pattern(new RegExp(`^[a-z][a-z0-9-]{0,${most - 1}}$`))
    .required()
    .messages({
      'string.pattern.base': `small letters, digits and hyphens, a letter first, ${most} at most`,
    });

const fileSchema = Joi.object<TemplateFile>({
  templates: Joi.array()
    .items(
      Joi.object<FiledTemplate>({
        code: code(32),
        note: Joi.string().trim().max(255).required(),
        text: Joi.string().required(),
      }),
    )
    .min(1)
    .max(200)
    .unique('code')
    .required(),
  images: Joi.array()
    .items(
      Joi.object<FiledImage>({
        code: code(16),
        name: Joi.string().trim().min(1).max(80).required(),
        says: Joi.string().trim().allow('').max(200).default(''),
        from: Joi.string().max(80).required(),
        recipe: Joi.string().required(),
        keep: Joi.number().integer().min(1).max(12).default(2),
        diskGiB: Joi.number().integer().min(1).max(2_048).required(),
        vcpu: Joi.number().integer().min(1).required(),
        memoryGiB: Joi.number().integer().min(1).required(),
        licences: Joi.array().items(Joi.string().trim().min(1).max(80)).max(20).default([]),
      }),
    )
    .max(100)
    .unique('code')
    .default([]),
})
  .required()
  .messages({ 'object.base': 'begins with "templates:", and a list of them' });

/** The images that a template refers to, each once: lines of ours and the provider's alike. */
export function imagesOfTemplate({ pools, inputs }: Pick<TemplateDocument, 'pools' | 'inputs'>): string[] {
  const named = pools.flatMap(({ image }) => {
    if (!image.startsWith('=')) return [image];
    const input = inputs.find(({ key }) => `=${key}` === image);
    return input?.type === 'choice' ? input.choices : [];
  });
  return [...new Set(named)].sort();
}

/** A file of templates as YAML: read again, it is the same. */
export const writeTemplateFile = (file: TemplateFile): string =>
  stringify(file, { lineWidth: 0, aliasDuplicateObjects: false });

/** A file holds many templates with their images. */
const MOST_CHARACTERS = 2_000_000;

/** Reads a file of templates; refuses it with each fault at its line, those within a template or a recipe named by its own. */
export function readTemplateFile(text: string): Result<TemplateFile, readonly Fault[]> {
  const { value, faults, faultAt } = readDocument(text, MOST_CHARACTERS);
  if (faults.length > 0) return refuse(faults);
  const { error, value: file } = fileSchema.validate(value, { abortEarly: false, errors: { label: false } });
  if (error)
    return refuse(
      error.details
        .slice(0, MOST_FAULTS)
        .map(({ path, message, type }) =>
          faultAt(
            path,
            type === 'object.unknown'
              ? 'is not known here'
              : type === 'array.unique'
                ? 'is there twice'
                : message,
          ),
        ),
    );
  const within = (path: readonly (string | number)[], found: readonly Fault[]): Fault[] =>
    found.map(({ line, says }) => faultAt(path, `its line ${line}: ${says}`));
  const wrong = [
    ...file.templates.flatMap((one, at) => {
      const read = readTemplate(one.text);
      return read.ok ? [] : within(['templates', at, 'text'], read.problem);
    }),
    ...file.images.flatMap((one, at) => {
      const read = readRecipe(one.recipe);
      return read.ok ? [] : within(['images', at, 'recipe'], read.problem);
    }),
  ];
  return wrong.length > 0 ? refuse(wrong.slice(0, MOST_FAULTS)) : ok(file);
}
