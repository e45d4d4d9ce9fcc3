import type Ajv2020 from 'ajv/dist/2020.js';
import type { ErrorObject } from 'ajv/dist/2020.js';
import { roundNumbers } from '../json/exact-json.js';
import { createAjv } from '../matching/comparing/create-ajv.js';
import type { Row } from '../state/rows.js';
import type { FieldTrouble } from './findings.js';

/** What is wrong with a row; empty: nothing. */
export type CheckRow = (row: Row) => readonly FieldTrouble[];

let shared: Ajv2020.default | null = null;

/** A JSON Schema (2020-12) that rows have to fit, each field that does not named; a text: why it is no schema. */
export function compileCheckRow(schema: Readonly<Record<string, unknown>>): CheckRow | string {
  shared ??= createAjv({ allErrors: true });
  const ajv = shared;
  try {
    const validate = ajv.compile(schema);
    ajv.removeSchema(schema);
    return (row) => (validate(roundNumbers(row)) === true ? [] : (validate.errors ?? []).map(tellField));
  } catch (error) {
    return (error as Error).message;
  }
}

function tellField(error: ErrorObject): FieldTrouble {
  const { instancePath, params, keyword, message = 'does not fit' } = error;
  const member = keyword === 'required' ? params['missingProperty'] : params['additionalProperty'];
  const path = typeof member === 'string' ? `${instancePath}/${escapePointer(member)}` : instancePath;
  const detail =
    keyword === 'required'
      ? 'is missing'
      : keyword === 'additionalProperties'
        ? 'is no field of a row'
        : keyword === 'enum'
          ? `${message}: ${(params['allowedValues'] as readonly unknown[]).join(', ')}`
          : message;
  return troubleAt(path.slice(1).replaceAll('/', '.') || 'row', path, detail);
}

/** `pointer`: a JSON Pointer; as a fragment it may stand in a URI. */
export function troubleAt(field: string, pointer: string, detail: string): FieldTrouble {
  return { field, pointer: `#${pointer}`, detail };
}

function escapePointer(name: string): string {
  return name.replaceAll('~', '~0').replaceAll('/', '~1');
}
