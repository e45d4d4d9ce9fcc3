import type { z } from 'zod';
import type { FileProblem } from '../errors/app-error.js';
import { type FromFiles, resolveBeside } from './beside/resolve-beside.js';
import type { ServiceText } from './beside/service-text.js';
import { type ServiceFile, serviceFileSchema } from './service-file.js';
import { resolveVariables } from './variables.js';
import { type PathKey, YamlSource } from './yaml-source.js';

/** A text held against a schema: the typed value, or everything that is wrong with it, each with line and column. */
export type ParsedFile<T> =
  | { readonly kind: 'parsed'; readonly value: T; readonly source: YamlSource }
  | { readonly kind: 'refused'; readonly problems: readonly FileProblem[] };

/** A service file (YAML or JSON) as typed definition, or its mistakes. What expressions and conditions mean is checked by `compileService`. */
export function parseServiceFile({ text, files }: ServiceText): ParsedFile<ServiceFile> & { from: FromFiles } {
  let from: FromFiles = new Map();
  const parsed = parseYamlFile(text, serviceFileSchema, 'a service file', (value, source) => {
    const resolved = resolveBeside(value, files);
    from = resolved.from;
    const problems = [...resolved.problems, ...resolveVariables(value, files)];
    return problems.map(({ path, message }) => source.problem({ path }, message));
  });
  return parsed.kind === 'parsed'
    ? { ...parsed, from }
    : { ...parsed, problems: parsed.problems.map((problem) => tellFile(problem, from)), from };
}

/** A problem within a file beside the service file says so: its line is that of the reference. */
export function tellFile(problem: FileProblem, from: FromFiles): FileProblem {
  const within = [...from].find(([path]) => problem.path.startsWith(path) && problem.path.length > path.length);
  return within === undefined ? problem : { ...problem, message: `${problem.message} (in ${within[1]})` };
}

/** Any of our YAML files against its schema. `prepare` may change the plain value before that, or say what is wrong with it. */
export function parseYamlFile<S extends z.ZodType>(
  text: string,
  schema: S,
  what: string,
  prepare: (value: unknown, source: YamlSource) => readonly FileProblem[] = () => [],
): ParsedFile<z.output<S>> {
  const source = new YamlSource(text);
  const syntax = source.syntaxProblems();
  if (syntax.length > 0) return { kind: 'refused', problems: syntax };
  const value = source.value();
  if (value === null || value === undefined) {
    return {
      kind: 'refused',
      problems: [{ message: `the file is empty; ${what} is expected`, path: '', line: 1, column: 1 }],
    };
  }
  const unprepared = prepare(value, source);
  if (unprepared.length > 0) return { kind: 'refused', problems: unprepared };
  const parsed = schema.safeParse(value);
  if (parsed.success) return { kind: 'parsed', value: parsed.data, source };
  return { kind: 'refused', problems: parsed.error.issues.flatMap((issue) => toProblems(source, issue)) };
}

function toProblems(source: YamlSource, issue: z.core.$ZodIssue): FileProblem[] {
  const path = issue.path as PathKey[];
  if (issue.code === 'unrecognized_keys') {
    const lines = issue.message.split('\n');
    return issue.keys.map((key, i) => {
      const message = lines[i] ?? issue.message;
      const nearest = /did you mean `([^`]+)`/.exec(message)?.[1];
      return source.problem({ path: [...path, key], atKey: true }, message, nearest === undefined ? {} : { nearest });
    });
  }
  if (issue.code === 'invalid_key') {
    const reason = issue.issues[0]?.message ?? issue.message;
    return [source.problem({ path, atKey: true }, reason)];
  }
  if (issue.code === 'invalid_union') return problemsOfUnion(source, issue, path);
  return [source.problem({ path }, expectation(issue))];
}

/** Another type than the branch's, or not the word it knows. */
const NOT_MEANT: ReadonlySet<string | undefined> = new Set(['invalid_type', 'invalid_value']);

/** A union says what the branch says that the value was meant for: one of its type, of those the one that got furthest. */
function problemsOfUnion(source: YamlSource, issue: z.core.$ZodIssueInvalidUnion, path: PathKey[]): FileProblem[] {
  const meant = issue.errors.filter(
    ([first]) => first !== undefined && !(NOT_MEANT.has(first.code) && first.path.length === 0),
  );
  const isOurs = issue.message !== 'Invalid input';
  const known = meant.filter((issues) => issues.every(({ code }) => code !== 'unrecognized_keys'));
  // A map whose keys are all those of one branch is meant for it, where that says which key it is about.
  if (known.length === 1 && known[0]?.every(namesItsKey) === true) return tellBranch(source, known[0] ?? [], path);
  const [best] = meant.sort((a, b) => deepest(b) - deepest(a));
  // Where several branches could be meant, the union's own words say more than one of them.
  if (best === undefined || (isOurs && meant.length > 1)) return [source.problem({ path }, issue.message)];
  return tellBranch(source, best, path);
}

function tellBranch(source: YamlSource, issues: readonly z.core.$ZodIssue[], path: PathKey[]): FileProblem[] {
  return issues.flatMap((inner) => toProblems(source, { ...inner, path: [...path, ...inner.path] }));
}

function namesItsKey({ path, message }: z.core.$ZodIssue): boolean {
  return message.includes(`\`${String(path.at(-1))}\``);
}

function deepest(issues: readonly z.core.$ZodIssue[]): number {
  return Math.max(0, ...issues.map(({ path }) => path.length));
}

function expectation(issue: z.core.$ZodIssue): string {
  if (issue.code === 'invalid_type' && /received undefined/.test(issue.message)) {
    return `\`${String(issue.path.at(-1) ?? '')}\` is missing: ${issue.expected} is expected`;
  }
  return issue.message;
}
