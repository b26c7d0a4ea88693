import { readTemplateFile } from '../../core/template-files';
import { Problem } from '../problem';
import type { ThreadTask } from '../threads';

/** Reads a file of templates, which takes as long as it is. */
export const templateFileTask: ThreadTask<string, ReturnType<typeof readTemplateFile>> = {
  name: 'read a file of templates',
  run: readTemplateFile,
  tooMuch: () => new Problem(422, 'file', 'The file takes too long to read: send it in parts.'),
};
