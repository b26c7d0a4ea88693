import type { OriginView } from '../../contract';
import type { InputValue } from '../../core/intent';
import {
  compareTemplates,
  deviationsOf,
  type TemplateChange,
  type TemplateDocument,
} from '../../core/templates';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import type { Connection } from '../db';
import { documentOf } from '../templates';
import { newestIntent } from '../intents';
import type { Standing } from './standing';

const NONE: OriginView = {
  template: null,
  name: '',
  revision: 0,
  newest: null,
  inputs: [],
  deviations: [],
  changes: [],
};

/** Where an environment came from, and what of it is otherwise than its template says. */
export async function originView(
  app: App,
  scope: CustomerScope,
  { facts: { environment, template }, offers }: Pick<Standing, 'facts' | 'offers'>,
): Promise<OriginView> {
  const from = environment?.intent.template;
  if (!environment || !from || !template) return NONE;
  const { document } = template;
  return {
    template: from.code,
    name: document.name,
    revision: from.revision,
    newest: template.revision,
    inputs: from.inputs.map(({ key, value }) => ({
      key,
      title: document.inputs.find((input) => input.key === key)?.title ?? key,
      value: written(value),
    })),
    deviations: deviationsOf(environment.intent, offers.sizes),
    changes: await newChanges(app.db, scope, from, template),
  };
}

const written = (value: InputValue): string =>
  typeof value === 'boolean' ? (value ? 'yes' : 'no') : String(value);

/** What the newest revision means otherwise than the one that it came from. */
async function newChanges(
  db: Connection,
  scope: CustomerScope,
  from: { readonly code: string; readonly revision: number },
  newest: { readonly revision: number; readonly document: TemplateDocument },
): Promise<TemplateChange[]> {
  if (newest.revision === from.revision) return [];
  const before = await documentOf(db, scope, from.code, from.revision);
  return compareTemplates(before, newest.document);
}

/** What its template wants its resources to be tagged with. */
export async function tagsOfEnvironment(
  db: Connection,
  scope: CustomerScope,
  id: string,
): Promise<Readonly<Record<string, string>>> {
  return (await newestIntent(db, scope, id))?.tags ?? {};
}
