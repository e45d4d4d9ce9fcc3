import { parse } from 'yaml';
import { z } from 'zod';
import { type BesideFiles, textOfBeside } from './beside/service-text.js';
import { isJsonMap, type JsonMap } from './json-map.js';
import { findNearest } from './nearest.js';
import { findSecretVariables } from './secret-variables.js';
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

/** A variable, and where it is from: `null`: the service file itself. */
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
  root['upstream'] = fillIn(root['upstream'], variables);
  if (root['upstream'] === undefined) delete root['upstream'];
  if (isJsonMap(root['tokens'])) root['tokens'] = fillInClients(root['tokens'], variables);
  for (const guarded of [root, ...Object.values(isJsonMap(root['operations']) ? root['operations'] : {})])
    if (isJsonMap(guarded) && isJsonMap(guarded['access']))
      (guarded as Record<string, unknown>)['access'] = fillInSecrets(guarded['access'], variables);
  return problems;
}

/** `${vars.NAME}` in texts that are no expressions: the value's text in its place. */
function fillIn(value: unknown, variables: JsonMap): unknown {
  if (typeof value === 'string')
    return value.replaceAll(/\$\{\s*vars\.(\w+)\s*\}/g, (all, name: string) =>
      Object.hasOwn(variables, name) ? String(variables[name]) : all,
    );
  if (Array.isArray(value)) return value.map((item) => fillIn(item, variables));
  if (!isJsonMap(value)) return value;
  return Object.fromEntries(Object.entries(value).map(([key, own]) => [key, fillIn(own, variables)]));
}

/** Claims of a client may hold expressions like every value; the rest of `tokens` is plain. */
function fillInClients({ clients, ...tokens }: JsonMap, variables: JsonMap): JsonMap {
  const filled = Object.entries(isJsonMap(clients) ? clients : {}).map(([id, client]) =>
    isJsonMap(client)
      ? [id, { ...client, secret: fillIn(client['secret'], variables) }]
      : [id, fillIn(client, variables)],
  );
  return {
    ...(fillIn(tokens, variables) as JsonMap),
    ...(isJsonMap(clients) ? { clients: Object.fromEntries(filled) } : clients === undefined ? {} : { clients }),
  };
}

/** The answer to who may not call is one like any other. */
function fillInSecrets(access: JsonMap, variables: JsonMap): JsonMap {
  const { refuse, ...ways } = access;
  return { ...(fillIn(ways, variables) as JsonMap), ...(refuse === undefined ? {} : { refuse }) };
}

function describeMissing(name: string, environment: string | null): string {
  const where =
    environment === null
      ? 'an environment (environments.yaml beside it, --env NAME)'
      : `the environment ${environment}`;
  return `the variable \`${name}\` has no value: give it one here, or in ${where}`;
}

/** The variables of a service file that loads, with where each is from; those that let callers in are not shown. */
export function listVariables(text: string, files: BesideFiles): Variable[] {
  const definition = tryParse(text);
  const own = isJsonMap(definition) && isJsonMap(definition['variables']) ? definition['variables'] : {};
  const environment = readEnvironment(files);
  const values = environment.kind === 'read' ? environment.values : {};
  const secret = findSecretVariables(definition);
  const show = (name: string, value: unknown): unknown => (secret.has(name) ? '(secret)' : value);
  return Object.entries(own).map(([name, value]) =>
    Object.hasOwn(values, name) && environment.kind === 'read'
      ? { name, value: show(name, values[name]), environment: environment.name }
      : { name, value: show(name, value), environment: null },
  );
}

/** Whether a service file's text has variables, so that an environment beside it matters. */
export function hasVariables(text: string): boolean {
  return /^["']?variables["']?\s*:|"variables"\s*:/m.test(text);
}
