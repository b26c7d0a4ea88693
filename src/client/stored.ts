import { useState } from 'react';
import { ApiProblem } from './problem';

type Values = Readonly<Record<string, unknown>>;

/** The stored values that a form replaces, as it last knew them, by the names of what is sent. Each save brings them up to date. */
export interface Stored {
  values: Values | null;
  /** As the server tagged them; undefined: it follows from the values. */
  tag: string | undefined;
}

/** @param values as they were read for the form; null: there are none yet */
export const useStored = (values: object | null): Stored => useState(() => storedAs(values))[0];

export const storedAs = (values: object | null): Stored => ({
  values: values && { ...values },
  tag: undefined,
});

/** For `If-Match` (RFC 9110, section 13.1.1). */
export async function tagFor({ values, tag }: Stored): Promise<string> {
  return tag ?? `"${(await import('../contract/etag')).etagOf(values)}"`;
}

/** Notes what a save has stored. What was sent besides, like a reason or a secret, is none of it. */
export function nowStored(stored: Stored, body: unknown, tag: string | null): void {
  const sent = recordOf(body);
  const names = Object.keys(stored.values ?? sent);
  stored.values = Object.fromEntries(names.map((name) => [name, sent[name]]));
  stored.tag = tag ?? undefined;
}

const recordOf = (value: unknown): Readonly<Record<string, unknown>> =>
  typeof value === 'object' && value !== null ? { ...value } : {};

/**
 * Where somebody else has saved meanwhile, a refusal says which fields, and what they hold now. The form knows it from then
 * on: saving again is meant.
 */
export function changedMeanwhile(stored: Stored, problem: ApiProblem): ApiProblem {
  if (problem.status !== 412) return problem;
  const current = problem.body.current === null ? null : recordOf(problem.body.current);
  const before = stored.values ?? {};
  const names = Object.keys(current ?? before).filter(
    (name) => JSON.stringify(before[name]) !== JSON.stringify(current?.[name]),
  );
  stored.values = current;
  stored.tag = undefined;
  const which = names.length === 0 ? '' : `: ${names.map(inWords).join(', ')}`;
  return new ApiProblem(
    problem.status,
    problem.code,
    `Somebody else saved this meanwhile${which}. Save again to overwrite it, or reload the page.`,
    Object.fromEntries(names.map((name) => [name, saysOf(current?.[name])])),
    problem.body,
  );
}

const inWords = (name: string): string => name.replace(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`);

const saysOf = (value: unknown): string =>
  typeof value === 'string' || typeof value === 'number'
    ? `somebody else changed this to “${value}”; save again to overwrite it`
    : 'somebody else changed this; save again to overwrite it';
