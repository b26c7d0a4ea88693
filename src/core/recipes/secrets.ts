const NAMED = /\{secret:([a-z][a-z0-9-]{0,31})\}/g;

/** The names of the secrets that steps refer to, like `{secret:licence-key}`; each once, in order of name. */
export const secretsIn = (steps: readonly { readonly what: string; readonly to: string }[]): string[] =>
  [
    ...new Set(
      steps.flatMap(({ what, to }) => Array.from(`${what}\n${to}`.matchAll(NAMED), ([, name]) => name ?? '')),
    ),
  ].sort();

/** Whether a text means to name a secret, and does not. */
export const isBadlyNamed = (text: string): boolean => text.replaceAll(NAMED, '').includes('{secret:');

/** A text with its secrets in their places; one that is not known stays named. */
export const withSecrets = (text: string, secrets: ReadonlyMap<string, string>): string =>
  text.replaceAll(NAMED, (whole, name: string) => secrets.get(name) ?? whole);

/** What a step wrote, with no secret in it: where one stood, its name does. The longest first: one may hold another. */
export const hideSecrets = (output: string, secrets: ReadonlyMap<string, string>): string =>
  [...secrets]
    .filter(([, value]) => value !== '')
    .sort(([, a], [, b]) => b.length - a.length)
    .reduce((text, [name, value]) => text.replaceAll(value, `{secret:${name}}`), output);
