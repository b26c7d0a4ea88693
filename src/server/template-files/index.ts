import Joi from 'joi';
import type { TemplateFile as Taken } from '../../contract';
import { namesOfSizes, type MachineSize } from '../../core/machines';
import { imagesOfTemplate, writeTemplateFile, type FiledImage } from '../../core/template-files';
import { readTemplate as readText } from '../../core/templates';
import type { ParentPolicy } from '../../core/parent-runs';
import { storedForm } from '../../core/stored';
import type { Change } from '../../core/planning';
import { enter, isInside, MSP, withoutRequest, type CustomerScope, type Scope } from '../access';
import type { App } from '../app';
import { beginChange, proposeChange } from '../changes';
import { imagesInReach } from '../images';
import { createParent, type NewPart, type ParentKind } from '../parent-runs';
import { Problem } from '../problem';
import { listSites } from '../sites';
import { inThread } from '../threads';
import { listTemplates, publish, publishingOf, readTemplate, type Publishing } from '../templates';
import { write } from '../write';
import { templateFileTask } from './thread';

/** A template with the images that it refers to, as a YAML file. @throws Problem 404, 409 where it has no revision yet */
export async function templateFile(app: App, scope: Scope, code: string): Promise<string> {
  const template = await readTemplate(app.db, scope, code);
  const { document } = template;
  if (!document) throw new Problem(409, 'draft', `${code} has no revision yet: publish it first.`);
  const sizes = (await listSites(app.db, scope)).flatMap((site) => site.sizes);
  const wanted = new Set(imagesOfTemplate(document));
  const images = (await imagesInReach(app.db, scope)).filter(
    ({ owner, line }) => wanted.has(line.code) && [MSP.code, template.owner].includes(owner.code),
  );
  return writeTemplateFile({
    templates: [{ code, note: template.note, text: template.text }],
    images: images.map(({ line }) => filedImage(line, sizes)),
  });
}

function filedImage(
  line: Omit<FiledImage, 'vcpu' | 'memoryGiB'> & { readonly size: string },
  sizes: readonly MachineSize[],
): FiledImage {
  const { code, name, says, from, recipe, keep, diskGiB, licences } = line;
  const { vcpu = 2, memoryGiB = 8 } = sizes.find(({ key }) => key === line.size) ?? {};
  return { code, name, says, from, recipe, keep, diskGiB, licences, vcpu, memoryGiB };
}

/**
 * Takes templates in as their next revisions: all of them, or none. Images that are not here are begun at a site, where one
 * is named, in a run over them.
 */
export async function takeTemplates(
  app: App,
  asked: Scope,
  text: string,
  { keep, site }: { readonly keep: boolean; readonly site: string },
): Promise<Taken> {
  const read = await inThread(templateFileTask, text);
  if (!read.ok) return { kept: false, templates: [], images: [], run: null, faults: read.problem };
  const scope = withoutRequest(asked);
  const { value: file } = read;
  const known = await listTemplates(app.db, scope);
  const templates: { code: string; outcome: 'new' | 'newer' | 'same'; revision: number }[] = [];
  const publishing: Publishing[] = [];
  for (const one of file.templates) {
    const before = known.find(({ code }) => code === one.code);
    const revision = before?.revision ?? 0;
    if (revision > 0 && (await readTemplate(app.db, scope, one.code)).text === one.text) {
      templates.push({ code: one.code, outcome: 'same', revision });
      continue;
    }
    templates.push({ code: one.code, outcome: before ? 'newer' : 'new', revision: revision + 1 });
    if (keep) publishing.push(await publishingOf(app, scope, { ...one, owner: before?.owner ?? '' }));
  }
  const images = await imagesOf(app, scope, file, keep ? site : '');
  const told = images.map(({ code, outcome, says }) => ({ code, outcome, says }));
  const taken: Taken = { kept: keep, templates, images: told, run: null, faults: [] };
  if (!keep) return taken;
  return write(app, asked, [], async (tx) => {
    const now = app.clock.now();
    const revisions = new Map<string, number>();
    for (const one of publishing)
      revisions.set(
        one.code,
        await publish(isInside(one.inside) ? tx.inside(one.inside) : tx, scope, one, now),
      );
    const parts = images.flatMap(({ code, begin }): NewPart<NewImage>[] =>
      begin ? [{ scope: begin.scope, about: code, input: begin.input }] : [],
    );
    const over = {
      kind: beginEach,
      title: 'Begin the images of a file',
      reason: REASON,
      policy: BEGINNING,
      parts,
    };
    return {
      ...taken,
      templates: templates.map((one) => ({ ...one, revision: revisions.get(one.code) ?? one.revision })),
      run: parts.length === 0 ? null : await createParent(tx, scope, over, now),
    };
  });
}

const REASON = 'came with a template';
const BEGINNING: ParentPolicy = { atATime: 1, failureLimit: 1_000, pilots: 0, pauseMinutes: 0 };

interface FoundImage {
  readonly code: string;
  readonly outcome: Taken['images'][number]['outcome'];
  readonly says: string;
  /** How it is begun, where it is. */
  readonly begin?: { readonly scope: CustomerScope; readonly input: NewImage };
}

async function imagesOf(
  app: App,
  scope: Scope,
  file: { readonly templates: readonly { readonly text: string }[]; readonly images: readonly FiledImage[] },
  site: string,
): Promise<FoundImage[]> {
  const sites = await listSites(app.db, scope);
  const ours = new Set((await imagesInReach(app.db, scope)).map(({ line }) => line.code));
  const theirs = new Set(sites.flatMap(({ images }) => images.map(({ name }) => name)));
  const wanted = new Set(
    file.templates.flatMap(({ text }) => {
      const document = readText(text);
      return document.ok ? imagesOfTemplate(document.value) : [];
    }),
  );
  const found: FoundImage[] = [];
  for (const code of [...wanted].sort()) {
    const filed = file.images.find((one) => one.code === code);
    if (ours.has(code) || theirs.has(code)) found.push({ code, outcome: 'here', says: '' });
    else if (!filed) found.push({ code, outcome: 'missing', says: 'is not in the file either' });
    else if (site === '') found.push({ code, outcome: 'missing', says: 'can be begun from the file' });
    else found.push({ code, ...(await beginning(app, scope, filed, site, sites)) });
  }
  return found;
}

/** How an image is begun, as a person would: who does not reach everyone cannot, and what is in the way is told. */
async function beginning(
  app: App,
  scope: Scope,
  { vcpu, memoryGiB, ...image }: FiledImage,
  site: string,
  sites: Awaited<ReturnType<typeof listSites>>,
): Promise<Omit<FoundImage, 'code'>> {
  if (scope.customers) return { outcome: 'missing', says: 'is begun by who reaches every customer' };
  const at = sites.find((one) => one.code === site);
  const size = at?.sizes.find((one) => one.vcpu === vcpu && one.memoryGiB === memoryGiB) ?? at?.sizes[0];
  if (!at || !size) return { outcome: 'missing', says: `there is no site ${site}` };
  const own = await enter(app.db, scope, MSP.code, true);
  const input = { ...image, site, size: size.key };
  const { refused, checks } = (await proposeChange(app, own, newImageOf(app), { input })).proposal;
  const [fault] = [
    ...Object.values(refused ?? {}),
    ...checks.filter(({ state }) => state === 'blocks').map(({ says }) => says),
  ];
  if (fault !== undefined) return { outcome: 'missing', says: fault };
  return {
    outcome: 'begun',
    says: `at ${at.name}, built on ${namesOfSizes([size])[size.key] ?? size.key}`,
    begin: { scope: own, input },
  };
}

function newImageOf({ catalogue }: App): Change {
  const found = catalogue.changes.find(({ kind }) => kind === 'new-image');
  if (!found) throw new RangeError('new-image is no change');
  return found;
}

/** What an image is begun from; all but its code is for the change that begins it. */
interface NewImage {
  readonly code: string;
}

/** Begins each image that came with a file. */
export const beginEach: ParentKind<NewImage> = {
  kind: 'begin-images',
  right: 'build',
  form: storedForm({
    name: 'image to be begun',
    schema: Joi.object<NewImage>({ code: Joi.string().required() }).unknown(),
    upgrades: [],
  }),
  carryOut: async (app, scope, input, { reason }) => {
    const ours = await imagesInReach(app.db, { actor: scope.actor, customers: undefined });
    if (ours.some(({ line }) => line.code === input.code)) return { says: 'is begun' };
    const change = newImageOf(app);
    const { fingerprint } = await proposeChange(app, scope, change, { input });
    const { run } = await beginChange(app, scope, change, { input, fingerprint, reason });
    return { says: 'is begun', run };
  },
};
