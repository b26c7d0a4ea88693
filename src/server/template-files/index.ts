import type { TemplateFile as Taken } from '../../contract';
import { namesOfSizes, type MachineSize } from '../../core/machines';
import { imagesOfTemplate, writeTemplateFile, type FiledImage } from '../../core/template-files';
import { readTemplate as readText } from '../../core/templates';
import { enter, MSP, withoutRequest, type Scope } from '../access';
import type { App } from '../app';
import { beginChange, proposeChange } from '../changes';
import { imagesInReach } from '../images';
import { Problem } from '../problem';
import { listSites } from '../sites';
import { inThread } from '../threads';
import { addRevision, listTemplates, readTemplate } from '../templates';
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
 * Takes templates in as their next revisions. Images that are not here are begun at a site, where one is named. Each is
 * taken by itself, so that a file that was cut off is sent again.
 */
export async function takeTemplates(
  app: App,
  scope: Scope,
  text: string,
  { keep, site }: { readonly keep: boolean; readonly site: string },
): Promise<Taken> {
  const read = await inThread(templateFileTask, text);
  if (!read.ok) return { kept: false, templates: [], images: [], faults: read.problem };
  const { value: file } = read;
  const known = await listTemplates(app.db, scope);
  const templates: { code: string; outcome: 'new' | 'newer' | 'same'; revision: number }[] = [];
  for (const one of file.templates) {
    const before = known.find(({ code }) => code === one.code);
    const revision = before?.revision ?? 0;
    if (revision > 0 && (await readTemplate(app.db, scope, one.code)).text === one.text) {
      templates.push({ code: one.code, outcome: 'same', revision });
      continue;
    }
    const owner = before?.owner ?? '';
    const next = keep ? await addRevision(app, withoutRequest(scope), { ...one, owner }) : revision + 1;
    templates.push({ code: one.code, outcome: before ? 'newer' : 'new', revision: next });
  }
  return { kept: keep, templates, images: await takeImages(app, scope, file, keep ? site : ''), faults: [] };
}

async function takeImages(
  app: App,
  scope: Scope,
  file: { readonly templates: readonly { readonly text: string }[]; readonly images: readonly FiledImage[] },
  site: string,
): Promise<Taken['images']> {
  const sites = await listSites(app.db, scope);
  const ours = new Set((await imagesInReach(app.db, scope)).map(({ line }) => line.code));
  const theirs = new Set(sites.flatMap(({ images }) => images.map(({ name }) => name)));
  const wanted = new Set(
    file.templates.flatMap(({ text }) => {
      const document = readText(text);
      return document.ok ? imagesOfTemplate(document.value) : [];
    }),
  );
  const taken: { code: string; outcome: 'here' | 'begun' | 'missing'; says: string }[] = [];
  for (const code of [...wanted].sort()) {
    const filed = file.images.find((one) => one.code === code);
    if (ours.has(code) || theirs.has(code)) taken.push({ code, outcome: 'here', says: '' });
    else if (!filed) taken.push({ code, outcome: 'missing', says: 'is not in the file either' });
    else if (site === '') taken.push({ code, outcome: 'missing', says: 'can be begun from the file' });
    else taken.push({ code, ...(await beginImage(app, scope, filed, site, sites)) });
  }
  return taken;
}

/** Begins an image as a person would: who does not reach everyone cannot, and what is in the way is told. */
async function beginImage(
  app: App,
  scope: Scope,
  { vcpu, memoryGiB, ...image }: FiledImage,
  site: string,
  sites: Awaited<ReturnType<typeof listSites>>,
): Promise<{ outcome: 'begun' | 'missing'; says: string }> {
  if (scope.customers) return { outcome: 'missing', says: 'is begun by who reaches every customer' };
  const at = sites.find((one) => one.code === site);
  const size = at?.sizes.find((one) => one.vcpu === vcpu && one.memoryGiB === memoryGiB) ?? at?.sizes[0];
  const change = app.catalogue.changes.find(({ kind }) => kind === 'new-image');
  if (!at || !size || !change) return { outcome: 'missing', says: `there is no site ${site}` };
  const own = await enter(app.db, withoutRequest(scope), MSP.code, true);
  const asked = { input: { ...image, site, size: size.key } };
  try {
    const { fingerprint } = await proposeChange(app, own, change, asked);
    await beginChange(app, own, change, { ...asked, fingerprint, reason: 'came with a template' });
    return {
      outcome: 'begun',
      says: `at ${at.name}, built on ${namesOfSizes([size])[size.key] ?? size.key}`,
    };
  } catch (error) {
    if (!(error instanceof Problem)) throw error;
    const { fields } = error.more;
    return { outcome: 'missing', says: fields ? Object.values(fields).join('; ') : error.detail };
  }
}
