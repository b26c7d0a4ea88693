import { joiResolver } from '@hookform/resolvers/joi';
import Joi from 'joi';
import { useForm, useWatch, type UseFormReturn } from 'react-hook-form';
import { reason, shape } from '../../contract';
import { CHANGES } from '../../core/changes';
import { policyWish, type PolicyWish } from '../../core/planning';
import type { Asked } from './use-proposal';

/** What is filled in for a change. */
export interface ChangeValues {
  input: Record<string, unknown>;
  policy: PolicyWish;
  reason: string;
}

export type ChangeForm = UseFormReturn<ChangeValues>;

/** The form of a change, checked as one types by the very schemas that check it on the server. */
export function useChangeForm(
  kind: string,
  input: Readonly<Record<string, unknown>>,
): { form: ChangeForm; asked: Asked } {
  const form = useForm<ChangeValues>({
    mode: 'onChange',
    resolver: joiResolver(schemaOf(kind), { abortEarly: false, errors: { label: false } }),
    defaultValues: { input, policy: {}, reason: '' },
  });
  const chosen = useWatch({ control: form.control });
  const policy = saidOf(chosen.policy ?? {});
  return {
    form,
    asked: {
      input: { ...input, ...chosen.input },
      ...(Object.keys(policy).length > 0 ? { policy } : {}),
    },
  };
}

/** Whether the customer's code has to be typed for it. */
export const asksForCode = (kind: string): boolean =>
  CHANGES.find((one) => one.kind === kind)?.confirm === 'type the code';

const schemaOf = (kind: string): Joi.ObjectSchema => {
  const change = CHANGES.find((one) => one.kind === kind);
  return shape({ input: change?.input ?? Joi.any(), policy: policyWish, reason });
};

/** Without what was left empty: that stays as the change has it. */
const saidOf = (policy: object): object =>
  Object.fromEntries(Object.entries(policy).filter(([, value]) => value !== undefined && value !== ''));

/** A number as typed; undefined while the field is empty. */
export const numberOrNone = (text: unknown): number | undefined =>
  text === '' || text === undefined ? undefined : Number(text);
