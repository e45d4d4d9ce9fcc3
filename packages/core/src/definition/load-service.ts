import type { FileProblem } from '../errors/app-error.js';
import { refuseFile } from '../errors/refuse-file.js';
import { type CompiledService, compileInSteps, compileService } from '../matching/compile-service.js';
import type { BesideFiles } from './beside/service-text.js';
import { parseServiceFile, tellFile } from './parse-service-file.js';
import { serviceFileSchema } from './service-file.js';
import { renderPath, type YamlSource } from './yaml-source.js';

/** A service file read and compiled, or all its mistakes with line, column and key. */
export type LoadedService =
  | { readonly kind: 'loaded'; readonly service: CompiledService; readonly source: YamlSource }
  | { readonly kind: 'refused'; readonly problems: readonly FileProblem[] };

/** The whole way from a service file's text, and the files beside it, to the compiled service. Nothing of a refused file takes effect. */
export function loadService(text: string, files: BesideFiles = {}): LoadedService {
  const steps = loadInSteps(text, files);
  let step = steps.next();
  while (step.done !== true) step = steps.next();
  return step.value;
}

/** The same in small steps, between which other work can be done. */
export function* loadInSteps(text: string, files: BesideFiles): Generator<undefined, LoadedService, undefined> {
  const parsed = parseServiceFile({ text, files });
  if (parsed.kind === 'refused') return parsed;
  const compiled = yield* compileInSteps(parsed.value, files);
  if (compiled.kind === 'compiled') return { kind: 'loaded', service: compiled.service, source: parsed.source };
  return {
    kind: 'refused',
    problems: compiled.problems.map(({ message, spot }) =>
      tellFile(parsed.source.problem(spot, withTwinLine(message, parsed.source)), parsed.from),
    ),
  };
}

/** The compiled service of a file. Fails with `file-refused`, all mistakes under `problems`. */
export function requireService(text: string, files: BesideFiles = {}): CompiledService {
  const loaded = loadService(text, files);
  if (loaded.kind === 'loaded') return loaded.service;
  throw refuseFile('the file', loaded.problems);
}

/** The compiled service of a definition that was made by us, not read from a file: it has to be right. */
export function compileDefinition(definition: unknown): CompiledService {
  const compiled = compileService(serviceFileSchema.parse(definition));
  if (compiled.kind === 'compiled') return compiled.service;
  throw refuseFile(
    'what was drafted',
    compiled.problems.map(({ message, spot }) => ({ message, path: renderPath(spot.path), line: 1, column: 1 })),
  );
}

/** A message that names another operation's `on` gets its line as well. */
function withTwinLine(message: string, source: YamlSource): string {
  return message.replace(/\(operations\.([^)]+?)\.on: ([^)]*)\)/, (_all, name: string, on: string) => {
    const { line } = source.position({ path: ['operations', name, 'on'] });
    return `(${on}, line ${line})`;
  });
}
