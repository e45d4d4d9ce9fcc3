import { isJsonMap } from '../../definition/json-map.js';
import type { OperationAddress } from '../../matching/path-template.js';
import type { Contract } from '../contract.js';
import type { ContractOperation } from '../contract-operation.js';
import { flattenSchema } from '../flat-schema.js';
import type { HostileCall } from './contract-index.js';
import { copyParts, renderSample, type SampleParts, sampleParts } from './sample-parts.js';

/** Calls of an operation that its contract does not allow: each lacks one thing that is required, or has it of the wrong kind. */
export function hostileCalls(
  contract: Contract,
  operation: ContractOperation,
  address: OperationAddress,
): readonly HostileCall[] {
  const valid = sampleParts(contract, operation);
  const found: HostileCall[] = [];
  const add = (name: string, change: (parts: SampleParts) => void): void => {
    const parts = copyParts(valid);
    change(parts);
    found.push({ name, call: renderSample(address, parts) });
  };
  for (const { place, name, isRequired } of operation.parameters) {
    if (!isRequired || place === 'path') continue;
    add(`without ${place} ${name}`, (parts) => {
      if (place === 'query') parts.query.delete(name);
      if (place === 'header') parts.headers.delete(name.toLowerCase());
      if (place === 'cookie') parts.cookies.delete(name);
    });
  }
  const { body } = valid;
  if (operation.body?.isRequired !== true || body === null) return found;
  add('without a body', (parts) => {
    parts.body = null;
  });
  const media = operation.body.media.find(({ type }) => type.startsWith(body.type));
  const schema = media?.schema ?? null;
  if (schema === null || !isJsonMap(body.value)) return found;
  for (const name of flattenSchema(contract, [schema], (branches) => branches[0] as never).required) {
    if (!Object.hasOwn(body.value, name)) continue;
    add(`without ${name}`, (parts) => {
      parts.body = { type: body.type, value: { ...(body.value as object), [name]: undefined } };
    });
  }
  return found;
}
