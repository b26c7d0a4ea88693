import { Refusal, type Call } from './server';

/** A text field of the body. @throws Refusal 400 when it is missing or empty */
export function text(call: Call, name: string): string {
  const value = call.body[name];
  if (typeof value !== 'string' || value === '')
    throw new Refusal(400, 'bad-field', `${name} must be a text`);
  return value;
}

/** A number field of the body. @throws Refusal 400 when it is not a finite number */
export function number(call: Call, name: string): number {
  const value = call.body[name];
  if (typeof value !== 'number' || !Number.isFinite(value))
    throw new Refusal(400, 'bad-field', `${name} must be a number`);
  return value;
}

/** Tags: a flat object of texts. */
export function tags(call: Call): Record<string, string> {
  const value = call.body.tags ?? {};
  if (typeof value !== 'object' || value === null)
    throw new Refusal(400, 'bad-field', 'tags must be an object');
  return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, String(one)]));
}

/** A flat object of plain values; missing means none. */
export function record(call: Call, name: string): Record<string, unknown> {
  const value = call.body[name] ?? {};
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    throw new Refusal(400, 'bad-field', `${name} must be an object`);
  return value as Record<string, unknown>;
}

/** A list of texts in the body; missing means none. */
export function texts(call: Call, name: string): string[] {
  const value = call.body[name] ?? [];
  if (!Array.isArray(value) || value.some((one) => typeof one !== 'string'))
    throw new Refusal(400, 'bad-field', `${name} must be a list of texts`);
  return value as string[];
}
