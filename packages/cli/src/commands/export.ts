import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { AppError } from '@upsetter/core/light';
import { EXIT } from '../exit.js';
import { print, printJson } from '../output/terminal.js';
import { type CommonOptions, connect } from './connect.js';
import { writeServiceText } from './service-text.js';

/** Writes the service file, and those beside it, into a folder. */
export async function exportService(name: string, folder: string, options: CommonOptions): Promise<number> {
  const { file, files } = await connect(options).readService(name);
  const path = join(folder, `${name}.yaml`);
  await mkdir(folder, { recursive: true }).catch((error: Error) => {
    throw new AppError('file-unreadable', `${folder} cannot be made: ${error.message}`);
  });
  await writeServiceText(path, { text: file, files });
  const written = [path, ...Object.keys(files).map((beside) => join(folder, beside))];
  if (options.json === true) printJson({ written });
  else for (const one of written) print(`wrote ${one}`);
  return EXIT.done;
}
