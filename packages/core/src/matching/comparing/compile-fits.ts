import type Ajv2020 from 'ajv/dist/2020.js';
import type { Comparison } from '../../definition/comparison.js';
import { roundNumbers } from '../../json/exact-json.js';
import { createAjv } from './create-ajv.js';
import { type Refusal, refuse, type ValueTest } from './value-test.js';

export interface CompiledFits {
  readonly test: ValueTest;
  /** Why a value does not fit; null: it does. */
  readonly explain: (value: unknown) => string | null;
}

/** `fits`: a JSON Schema (2020-12). Null: it is not asked. */
export function compileFits({ fits }: Comparison): CompiledFits | Refusal | null {
  if (fits === undefined) return null;
  shared ??= createAjv();
  const ajv = shared;
  try {
    const validate = ajv.compile(fits);
    // It has the function; the schemas of files that are gone are not kept.
    ajv.removeSchema(fits);
    return {
      test: (value) => validate(roundNumbers(value)) === true,
      explain: (value) =>
        validate(roundNumbers(value)) === true ? null : explainErrors(ajv.errorsText(validate.errors)),
    };
  } catch (error) {
    return refuse(`\`fits\` is no JSON Schema: ${(error as Error).message}`, ['fits']);
  }
}

/** Making one takes as long as a hundred schemas do. */
let shared: Ajv2020.default | null = null;

function explainErrors(text: string): string {
  return text
    .replaceAll(/^data\/?/g, '$.')
    .replace(/^\$\. /, 'it ')
    .replaceAll('/', '.');
}
