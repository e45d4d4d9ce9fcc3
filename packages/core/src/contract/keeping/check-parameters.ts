import { findNearest } from '../../definition/nearest.js';
import type { RequestView } from '../../request/request-view.js';
import type { Contract } from '../contract.js';
import type { ContractOperation, ContractParameter } from '../contract-operation.js';
import { readStyle } from '../parameters/parameter-style.js';
import { type ReadableParameter, readParameterValue } from '../parameters/read-parameter.js';
import { readSchemaKind } from '../parameters/schema-kind.js';
import type { CallFinding } from './call-finding.js';
import type { SchemaValidator } from './schema-validator.js';

/** Adds what it finds. `pathTexts`: the texts of the path's parameters, in the order of the path. */
export type AddFindings = (request: RequestView, pathTexts: readonly string[], into: CallFinding[]) => void;

const BAD_REQUEST = 400;

/** One check for each parameter that can be wrong, and one for names that look like a slip of the pen. */
export function compileParameterChecks(
  contract: Contract,
  operation: ContractOperation,
  validator: SchemaValidator,
): AddFindings[] {
  const names = pathNames(operation.path);
  const checks = operation.parameters.map((parameter) =>
    compileParameter(contract, parameter, names.indexOf(parameter.name), validator),
  );
  const slips = compileSlips(contract, operation);
  return slips === null ? checks : [...checks, slips];
}

function pathNames(path: string): string[] {
  return [...path.matchAll(/\{([^}]*)\}/g)].map(([, name = '']) => name.replace(/\.\.\.$/, ''));
}

function compileParameter(
  contract: Contract,
  parameter: ContractParameter,
  pathIndex: number,
  validator: SchemaValidator,
): AddFindings {
  const { name, place, isRequired, schema } = parameter;
  const own: ReadableParameter = {
    name,
    place,
    style: readStyle(contract, parameter),
    kind: readSchemaKind(contract, schema),
  };
  const validate = schema === null ? null : validator.compile(schema, 'request');
  const at = `${place} ${place === 'header' ? name.toLowerCase() : name}`;
  const missing = lazyFinding(contract, parameter, at, 'is missing');
  return (request, pathTexts, into) => {
    const value = readParameterValue(own, request, pathIndex < 0 ? undefined : pathTexts[pathIndex]);
    if (value === undefined) {
      if (isRequired && pathIndex < 0 && place !== 'path') into.push(missing());
      return;
    }
    if (validate === null) return;
    for (const finding of validate(value))
      into.push({
        in: 'call',
        at: finding.at === '$' ? at : `${at} ${finding.at}`,
        message: finding.message,
        rule: finding.rule,
        refusal: BAD_REQUEST,
      });
  };
}

/** Made once, when it is first needed: lines are looked up in the document. */
function lazyFinding(contract: Contract, { node }: ContractParameter, at: string, message: string): () => CallFinding {
  let made: CallFinding | null = null;
  return () => {
    made ??= { in: 'call', at, message, rule: contract.describe(node), refusal: BAD_REQUEST };
    return made;
  };
}

/** A query parameter that the contract does not have is no fault, unless it is nearly one that it has. */
function compileSlips(contract: Contract, operation: ContractOperation): AddFindings | null {
  const known = operation.parameters.filter(({ place }) => place === 'query').map(({ name }) => name);
  // The members of a map are parameters of their own, whose names may be any.
  if (known.length === 0 || operation.parameters.some((own) => readStyle(contract, own).kind === 'deepObject'))
    return null;
  return (request, _pathTexts, into) => {
    for (const name of Object.keys(request.queries())) {
      if (known.includes(name)) continue;
      const unsent = known.filter((other) => request.query(other) === undefined);
      const nearest = findNearest(name, unsent);
      if (nearest === null) continue;
      const message = `is not in the contract; did you mean "${nearest}"?`;
      into.push({ in: 'call', at: `query ${name}`, message, rule: contract.describe(operation.node), refusal: null });
    }
  };
}
