import Joi from 'joi';
import { intentOf } from '../../images';
import { refreshFault, type RefreshRule } from '../../refresh';
import { defineChange } from '../../planning';
import { ok, refuse } from '../../result';
import { nameOf } from '../common';
import { lineIn } from './common';

interface Refresh {
  /** Null: it is built anew only when someone asks. */
  readonly refresh: RefreshRule | null;
}

/** Says when an image is built anew by itself. */
export const refreshByRule = defineChange<Refresh>({
  kind: 'refresh-by-rule',
  subject: 'environment',
  verb: 'Refresh by rule',
  input: Joi.object<Refresh>({
    refresh: Joi.object<RefreshRule, true>({
      rule: Joi.string().trim().max(200).required().description('RFC 5545, without a time of day'),
      after: Joi.number().integer().min(0).max(27).required().description('So many days after'),
      time: Joi.string().max(5).required().description('`06:00`, in its zone'),
      zone: Joi.string().max(64).required(),
      country: Joi.string().max(2).allow('').required().description('Whose public holidays are left out'),
    })
      .allow(null)
      .required(),
  }),
  right: 'build',
  confirm: 'press',
  undo: 'by difference',
  title: ({ refresh }, facts) =>
    refresh ? `Refresh ${nameOf(facts)} by ${refresh.rule}` : `Refresh ${nameOf(facts)} by hand alone`,
  edit: (intent, { refresh }) => {
    const line = lineIn(intent);
    if (!line.ok) return line;
    const faults = refresh && refreshFault(refresh);
    if (faults)
      return refuse(
        Object.fromEntries(Object.entries(faults).map(([field, says]) => [`refresh.${field}`, says])),
      );
    return ok(intentOf({ ...line.value, refresh: refresh ?? undefined }));
  },
  policy: () => ({ atATime: 1, failureLimit: 1 }),
  people: () => 0,
});
