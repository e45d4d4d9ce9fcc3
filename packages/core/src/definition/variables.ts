import { parse } from 'yaml';
import { z } from 'zod';
import { type BesideFiles, textOfBeside } from './beside/service-text.js';
import { isJsonMap, type JsonMap } from './json-map.js';
import { findNearest } from './nearest.js';
import { strictKeys } from './strict-keys.js';
import type { PathKey } from './yaml-source.js';

/** Beside a service file: values of variables by environment, and which one is in use. */
export const ENVIRONMENTS_FILE = './environments.yaml';

const valuesSchema = z.record(z.string(), z.json(), { error: 'an environment maps variables to values' });
const environmentsSchema = strictKeys('environments.yaml', {
  /** The environment that is in use; `--env` says another. */
  use: z.string({ error: '`use` names an environment' }).optional(),
  environments: z.record(z.string(), valuesSchema, { error: '`environments` maps names to variables' }),
});

/** A variable as it is, and where it is from: `null`: the service file itself. */
export interface Variable {
  readonly name: string;
  readonly value: unknown;
  readonly environment: string | null;
}

interface Problem {
  readonly path: readonly PathKey[];
  readonly message: string;
}

type ReadEnvironment =
  | { readonly kind: 'read'; readonly name: string | null; readonly values: JsonMap }
  | { readonly kind: 'refused'; readonly message: string };

/** The environment in use, as the files beside say; none: a name of null, and no values. */
function readEnvironment(files: BesideFiles): ReadEnvironment {
  const file = Object.hasOwn(files, ENVIRONMENTS_FILE) ? files[ENVIRONMENTS_FILE] : undefined;
  if (file === undefined) return { kind: 'read', name: null, values: {} };
  const parsed = environmentsSchema.safeParse(tryParse(textOfBeside(file) ?? ''));
  if (!parsed.success) {
    const [issue] = parsed.error.issues;
    const at = issue?.path.join('.') ?? '';
    return { kind: 'refused', message: `environments.yaml${at === '' ? '' : `, ${at}`}: ${issue?.message}` };
  }
  const { use, environments } = parsed.data;
  if (use === undefined) return { kind: 'read', name: null, values: {} };
  const values = Object.hasOwn(environments, use) ? environments[use] : undefined;
  if (values !== undefined) return { kind: 'read', name: use, values };
  const nearest = findNearest(use, Object.keys(environments));
  const hint = nearest === null ? `it has ${Object.keys(environments).join(', ')}` : `did you mean \`${nearest}\`?`;
  return { kind: 'refused', message: `there is no environment \`${use}\` in environments.yaml; ${hint}` };
}

function tryParse(text: string): unknown {
  try {
    return parse(text, { maxAliasCount: 0 });
  } catch {
    return null;
  }
}

/**
 * Gives the variables of a definition (still any value) their values: those of the environment in use before those of the
 * file. Puts them into `upstream`, too. What has no value is told.
 */
export function resolveVariables(definition: unknown, files: BesideFiles): Problem[] {
  if (!isJsonMap(definition) || !isJsonMap(definition['variables'])) return [];
  const environment = readEnvironment(files);
  if (environment.kind === 'refused') return [{ path: ['variables'], message: environment.message }];
  const problems: Problem[] = [];
  const variables = Object.fromEntries(
    Object.entries(definition['variables']).map(([name, own]) => {
      const value = Object.hasOwn(environment.values, name) ? environment.values[name] : own;
      if (value === null || value === undefined)
        problems.push({ path: ['variables', name], message: describeMissing(name, environment.name) });
      return [name, value];
    }),
  );
  const root = definition as Record<string, unknown>;
  root['variables'] = variables;
  if (typeof root['upstream'] === 'string')
    root['upstream'] = root['upstream'].replaceAll(/\$\{\s*vars\.(\w+)\s*\}/g, (all, name: string) =>
      Object.hasOwn(variables, name) ? String(variables[name]) : all,
    );
  return problems;
}

function describeMissing(name: string, environment: string | null): string {
  const where =
    environment === null
      ? 'an environment (environments.yaml beside it, --env NAME)'
      : `the environment ${environment}`;
  return `the variable \`${name}\` has no value: give it one here, or in ${where}`;
}

/** The variables of a service file that loads, as they are, with where each is from. */
export function listVariables(text: string, files: BesideFiles): Variable[] {
  const definition = tryParse(text);
  const own = isJsonMap(definition) && isJsonMap(definition['variables']) ? definition['variables'] : {};
  const environment = readEnvironment(files);
  const values = environment.kind === 'read' ? environment.values : {};
  return Object.entries(own).map(([name, value]) =>
    Object.hasOwn(values, name) && environment.kind === 'read'
      ? { name, value: values[name], environment: environment.name }
      : { name, value, environment: null },
  );
}

/** Whether a service file's text has variables, so that an environment beside it matters. */
export function hasVariables(text: string): boolean {
  return /^["']?variables["']?\s*:|"variables"\s*:/m.test(text);
}
