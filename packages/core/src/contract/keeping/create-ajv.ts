import Ajv2020, { _, type KeywordCxt, type ValidateFunction } from 'ajv/dist/2020.js';
import { callRef } from 'ajv/dist/vocabularies/core/ref.js';
import addFormats from 'ajv-formats';
import { REFERS_TO } from './convert-schema.js';
import { createSchemaPattern } from './schema-pattern.js';

/** Knows what a schema is; making it takes as long as a hundred schemas do, so that all share it. */
let meta: Ajv2020.default | null = null;

/** Why a schema is none; null: it is one. */
export function findSchemaMistake(schema: object): string | null {
  meta ??= new Ajv2020.default({ strict: false, logger: false });
  if (meta.validateSchema(schema) === true) return null;
  const [first] = meta.errors ?? [];
  return `${first?.instancePath.slice(1)} ${first?.message}`.trim();
}

/** `open`: the function of a schema that is referred to by its id, asked for when a value gets there. */
export function createAjv(open: (id: string) => Pick<ValidateFunction, 'errors'>): Ajv2020.default {
  const ajv = new Ajv2020.default({
    strict: false,
    allErrors: true,
    verbose: true,
    logger: false,
    meta: false,
    // They were looked at before.
    validateSchema: false,
    validateFormats: true,
    code: {
      // Made smaller, a function takes a third longer to compile and runs no faster.
      optimize: false,
      regExp: Object.assign(createSchemaPattern, { code: 'createSchemaPattern' }) as never,
    },
  });
  addFormats.default(ajv);
  ajv.addKeyword({ keyword: REFERS_TO, schemaType: 'string', code: (cxt) => writeReference(cxt, open) });
  return ajv;
}

/** As the library writes references in circles: to an object that has the function by the time it is called. */
function writeReference(cxt: KeywordCxt, open: (id: string) => Pick<ValidateFunction, 'errors'>): void {
  const target = {
    get validate() {
      return open(cxt.schema as string);
    },
  };
  callRef(cxt, _`${cxt.gen.scopeValue('wrapper', { ref: target })}.validate`, undefined, undefined);
}
