import { isJsonMap } from '../definition/json-map.js';
import { escapeMarkup } from '../xml/markup-text.js';
import { type Contract, type ContractNode, refOf } from './contract.js';
import { flattenFirst } from './flat-schema.js';

/** How a schema is written in XML (OpenAPI 3.1, 4.8.26). */
interface XmlRules {
  readonly name?: string;
  readonly namespace?: string;
  readonly prefix?: string;
  readonly attribute?: boolean;
  readonly wrapped?: boolean;
}

/** A value of a schema as an XML document. Texts that are one expression stay as they are. */
export function writeXml(contract: Contract, schema: ContractNode, value: unknown): string {
  const rules = rulesOf(contract, schema);
  const name = rules.name ?? nameOfSchema(contract, schema) ?? 'root';
  return writeElement({ contract, indent: '' }, { ...rules, name }, schema, value);
}

interface Around {
  readonly contract: Contract;
  readonly indent: string;
}

type Named = XmlRules & { readonly name: string };

function writeElement({ contract, indent }: Around, rules: Named, schema: ContractNode, value: unknown): string {
  const { properties } = flattenFirst(contract, schema);
  const inside = { contract, indent: `${indent}  ` };
  const attributes: string[] = [];
  const children: string[] = [];
  for (const [name, member] of isJsonMap(value) ? Object.entries(value) : []) {
    const node = properties.get(name)?.[0];
    const own = node === undefined ? {} : rulesOf(contract, node);
    const named = { ...own, name: own.name ?? name };
    if (own.attribute === true) attributes.push(` ${qualify(named)}="${write(member)}"`);
    else if (node === undefined) children.push(`${inside.indent}<${named.name}>${write(member)}</${named.name}>`);
    else children.push(...writeMember(inside, named, node, member));
  }
  const tag = qualify(rules);
  const open = `${indent}<${tag}${declare(rules)}${attributes.join('')}`;
  if (Array.isArray(value)) {
    const items = writeItems(inside, rules, schema, value);
    return items.length === 0 ? `${open}/>` : `${open}>\n${items.join('\n')}\n${indent}</${tag}>`;
  }
  if (!isJsonMap(value)) return `${open}>${write(value)}</${tag}>`;
  return children.length === 0 ? `${open}/>` : `${open}>\n${children.join('\n')}\n${indent}</${tag}>`;
}

/** A list is its items one after the other, within an element of their own where it is `wrapped`. */
function writeMember(around: Around, rules: Named, schema: ContractNode, value: unknown): string[] {
  if (!Array.isArray(value)) return [writeElement(around, rules, schema, value)];
  return rules.wrapped === true
    ? [writeElement(around, rules, schema, value)]
    : writeItems(around, rules, schema, value);
}

/** Items are called as they say themselves, else as their list. */
function writeItems(around: Around, list: Named, schema: ContractNode, values: readonly unknown[]): string[] {
  const { contract } = around;
  const [item] = flattenFirst(contract, schema).items;
  const own = item === undefined ? {} : rulesOf(contract, item);
  const rules = { ...own, name: own.name ?? list.name };
  return values.map((value) =>
    item === undefined
      ? `${around.indent}<${rules.name}>${write(value)}</${rules.name}>`
      : writeElement(around, rules, item, value),
  );
}

function rulesOf(contract: Contract, schema: ContractNode): XmlRules {
  const own = isJsonMap(schema.value) ? schema.value['xml'] : undefined;
  const target = contract.resolve(schema)?.value;
  const found = own ?? (isJsonMap(target) ? target['xml'] : undefined);
  return isJsonMap(found) ? (found as XmlRules) : {};
}

/** `Berth` of `#/components/schemas/Berth`. */
function nameOfSchema(contract: Contract, schema: ContractNode): string | null {
  const name = refOf(schema.value) === null ? undefined : contract.resolve(schema)?.path.at(-1);
  return name !== undefined && /^[A-Za-z_][\w.-]*$/.test(name) ? name : null;
}

function qualify({ name, prefix }: Named): string {
  return prefix === undefined ? name : `${prefix}:${name}`;
}

function declare({ namespace, prefix }: XmlRules): string {
  if (namespace === undefined) return '';
  return ` xmlns${prefix === undefined ? '' : `:${prefix}`}="${escapeMarkup(namespace)}"`;
}

function write(value: unknown): string {
  if (typeof value === 'string' && value.startsWith('${')) return value;
  if (value === null) return '';
  return escapeMarkup(typeof value === 'object' ? JSON.stringify(value) : String(value));
}
