import { type Contract, type ContractNode, childOf } from '../contract/contract.js';
import { flattenFirst } from '../contract/flat-schema.js';
import { isWithin } from '../contract/given-value.js';
import { isJsonMap } from '../definition/json-map.js';

const STATUS = /^(status|status_?code|code)$/i;
const WORDS = /^(title|message|detail|error|error_?message|reason|description)$/i;

/** A refusal that was made up says what it is: its own status, and what the contract calls the response. */
export function sayRefusal(
  value: unknown,
  schema: ContractNode,
  contract: Contract,
  { status, node }: { readonly status: number; readonly node: ContractNode },
): unknown {
  if (status < 400 || !isJsonMap(value)) return value;
  const description = describe(node);
  const { properties } = flattenFirst(contract, schema);
  const said = new Map<string, unknown>();
  for (const [name, [node]] of properties) {
    if (node === undefined || !Object.hasOwn(value, name)) continue;
    const flat = flattenFirst(contract, node);
    const isMadeUp =
      flat.given.length === 0 && flat.enum === null && (flat.format === null || typeof value[name] === 'number');
    const other = typeof value[name] === 'number' && STATUS.test(name) ? status : WORDS.test(name) ? description : null;
    if (isMadeUp && typeof other === typeof value[name] && isWithin(other, flat)) said.set(name, other);
  }
  return said.size === 0 ? value : { ...value, ...Object.fromEntries(said) };
}

/** The first line of a response's description; null: it has none. */
function describe(response: ContractNode): string | null {
  const text = childOf(response, 'description')?.value;
  const [line = ''] = typeof text === 'string' ? text.trim().split('\n') : [];
  return line === '' ? null : line;
}
