import { writeFile } from 'node:fs/promises';
import { describeServiceFile } from '@upsetter/core';
import { AppError } from '@upsetter/core/light';
import { EXIT } from '../exit.js';
import { paint, print } from '../output/terminal.js';

/** The JSON Schema of the service file, for editors: written to a file or printed. */
export async function writeSchema({ output }: { readonly output?: string }): Promise<number> {
  const text = `${JSON.stringify(describeServiceFile(), null, 2)}\n`;
  if (output === undefined) {
    process.stdout.write(text);
    return EXIT.done;
  }
  await writeFile(output, text).catch((error: Error) => {
    throw new AppError('file-unreadable', `${output} cannot be written: ${error.message}`);
  });
  print(`wrote ${paint.strong(output)}`);
  print(
    paint.faint(
      `For editors with a YAML language server, the first line of a service file: # yaml-language-server: $schema=${output}`,
    ),
  );
  return EXIT.done;
}
