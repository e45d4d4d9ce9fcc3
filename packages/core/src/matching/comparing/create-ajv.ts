import Ajv2020 from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { createSchemaPattern } from '../../contract/keeping/schema-pattern.js';

/** A validator for schemas of service files: what callers send is matched in linear time. */
export function createAjv(options: { readonly allErrors?: boolean } = {}): Ajv2020.default {
  const ajv = new Ajv2020.default({
    strict: false,
    logger: false,
    allErrors: options.allErrors ?? false,
    code: { regExp: Object.assign(createSchemaPattern, { code: 'createSchemaPattern' }) as never },
  });
  addFormats.default(ajv);
  return ajv;
}
