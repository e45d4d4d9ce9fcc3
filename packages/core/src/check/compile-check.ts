import { parseDuration } from '../definition/duration.js';
import { findNearest } from '../definition/nearest.js';
import type { ParsedFile } from '../definition/parse-service-file.js';
import { parseYamlFile } from '../definition/parse-service-file.js';
import type { PathKey } from '../definition/yaml-source.js';
import type { FileProblem } from '../errors/app-error.js';
import { type CompiledCondition, compileWhen } from '../matching/compile-condition.js';
import type { CompiledService } from '../matching/compile-service.js';
import { type CheckDefinition, checkFileSchema, type Times } from './check-file.js';

/** What `SERVICE/OPERATION` (or only `SERVICE`) names. */
export interface CallTarget {
  readonly service: string;
  readonly operation: string | null;
}

export interface Count {
  readonly least: number;
  readonly most: number;
}

/** One check, ready to be held against calls. */
export interface CompiledCheck {
  readonly name: string;
  readonly lane: string;
  readonly withinMs: number;
  readonly statement:
    | {
        readonly kind: 'times';
        readonly of: CallTarget;
        readonly conditions: readonly CompiledCondition[];
        readonly count: Count;
      }
    | { readonly kind: 'strays'; readonly of: CallTarget | null; readonly count: Count }
    | { readonly kind: 'order'; readonly targets: readonly CallTarget[]; readonly strict: boolean };
}

export type CompiledChecks =
  | { readonly kind: 'compiled'; readonly checks: readonly CompiledCheck[] }
  | { readonly kind: 'refused'; readonly problems: readonly FileProblem[] };

type Report = (message: string, path: readonly PathKey[], atKey?: boolean) => void;

/** A checks file read against the services there are: a name that no service has is a mistake, not a check that fails. */
export function compileChecks(
  text: string,
  services: readonly CompiledService[],
  defaults: { lane: string; withinMs: number },
): CompiledChecks {
  const parsed: ParsedFile<{ checks: CheckDefinition[] }> = parseYamlFile(text, checkFileSchema, 'a checks file');
  if (parsed.kind === 'refused') return parsed;
  const problems: FileProblem[] = [];
  const checks = parsed.value.checks.map((definition, i) =>
    compileCheck(definition, services, defaults, ['checks', i], (message, path, atKey = false) =>
      problems.push(parsed.source.problem({ path, atKey }, message)),
    ),
  );
  return problems.length > 0 ? { kind: 'refused', problems } : { kind: 'compiled', checks };
}

function compileCheck(
  definition: CheckDefinition,
  services: readonly CompiledService[],
  defaults: { lane: string; withinMs: number },
  path: readonly PathKey[],
  report: Report,
): CompiledCheck {
  return {
    name: definition.check,
    lane: definition.lane ?? defaults.lane,
    withinMs: definition.within === undefined ? defaults.withinMs : (parseDuration(definition.within) ?? 0),
    statement: compileStatement(definition, services, path, report),
  };
}

function compileStatement(
  definition: CheckDefinition,
  services: readonly CompiledService[],
  path: readonly PathKey[],
  report: Report,
): CompiledCheck['statement'] {
  if (definition.order !== undefined) {
    const targets = definition.order.map((name, i) => parseTarget(name, services, [...path, 'order', i], report, true));
    return { kind: 'order', targets, strict: definition.strict ?? false };
  }
  const of = definition.of === undefined ? null : parseTarget(definition.of, services, [...path, 'of'], report, false);
  if (definition.strays !== undefined) return { kind: 'strays', of, count: toCount(definition.strays) };
  const target = of ?? { service: '', operation: null };
  const conditions = compileWhen(
    definition.where,
    { path: pathNamesOf(target, services), text: null, namespaces: {} },
    [...path, 'where'],
    report,
  );
  return { kind: 'times', of: target, conditions, count: toCount(definition.times ?? 0) };
}

function toCount(times: Times): Count {
  if (typeof times === 'number') return { least: times, most: times };
  return { least: times.least ?? 0, most: times.most ?? Number.POSITIVE_INFINITY };
}

function parseTarget(
  text: string,
  services: readonly CompiledService[],
  path: readonly PathKey[],
  report: Report,
  needsOperation: boolean,
): CallTarget {
  const slash = text.indexOf('/');
  const service = slash < 0 ? text : text.slice(0, slash);
  const operation = slash < 0 ? null : text.slice(slash + 1);
  const known = services.find((item) => item.name === service);
  if (known === undefined) {
    report(
      unknown(
        `no service \`${service}\``,
        service,
        services.map((item) => item.name),
      ),
      path,
    );
  } else if (operation !== null && !known.operations.some((item) => item.name === operation)) {
    report(
      unknown(
        `${service} has no operation \`${operation}\``,
        operation,
        known.operations.map((item) => item.name),
      ),
      path,
    );
  } else if (operation === null && needsOperation) report('SERVICE/OPERATION is expected', path);
  return { service, operation };
}

function unknown(message: string, word: string, candidates: readonly string[]): string {
  const nearest = findNearest(word, candidates);
  if (nearest !== null) return `${message}; did you mean \`${nearest}\`?`;
  return candidates.length === 0 ? `${message}; there is none` : `${message}; there is ${candidates.join(', ')}`;
}

function pathNamesOf(target: CallTarget, services: readonly CompiledService[]): readonly string[] | null {
  const service = services.find((item) => item.name === target.service);
  return service?.operations.find((item) => item.name === target.operation)?.address.names ?? null;
}
