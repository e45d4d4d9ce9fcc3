import { Environment } from '@marcbachmann/cel-js';
import { findNearest } from '../definition/nearest.js';
import { toExact } from '../json/exact-json.js';
import { CALL_MEMBERS, CALL_MEMBERS_NOT_YET } from './call-members.js';
import type { CompileContext } from './compile-context.js';
import { compileFakeCall } from './compile-fake-call.js';
import { compileJsonPathCall } from './compile-jsonpath-call.js';
import { compileLogic, needTruth } from './compile-logic.js';
import { compileMacro, MACROS } from './compile-macro.js';
import { compileWordCall } from './compile-word-call.js';
import { compileXPathCall } from './compile-xpath-call.js';
import type { ExpressionFunction } from './expression-function.js';
import type { Evaluate } from './frame.js';
import { FUNCTIONS } from './functions.js';
import { OPERATORS } from './operators.js';
import { maskReserved, unmaskReserved } from './reserved-words.js';
import { SCOPE_ROOTS, type ScopeRoot } from './scope-members.js';
import type { SyntaxNode } from './syntax-node.js';
import { needNumber, OMIT, readMember, toText } from './value.js';

const NAMES = ['call', 'now', 'service', 'vars', 'state', 'data', 'row', 'let', 'answer', 'omit'];
const PARSER = new Environment({
  unlistedVariablesAreDyn: true,
  enableOptionalTypes: true,
  limits: { maxDepth: 60, maxAstNodes: 5_000 },
});
const NULL: Evaluate = () => null;

/** A CEL expression as a closure. The registry's parser reads it; names, functions and path parameters are checked here, once. */
export function compileExpression(expression: string, context: CompileContext): Evaluate {
  let ast: SyntaxNode;
  try {
    ast = PARSER.parse(maskReserved(expression)).ast;
  } catch (error) {
    const { message, start } = error as { message: string; start?: number };
    context.report(`the expression cannot be read: ${unmaskReserved(message.split('\n')[0] ?? '')}`, start ?? 0);
    return NULL;
  }
  return compileNode(ast, context);
}

function compileNode(node: SyntaxNode, context: CompileContext): Evaluate {
  switch (node.op) {
    case 'value':
      return compileValue(node.args as unknown, node, context);
    case 'id':
      return compileName(unmaskReserved(node.args as string), node, context);
    case '.':
    case '.?':
      return compileMember(node, context);
    case '[]':
    case '[?]':
      return compileIndex(node, context);
    case 'list':
      return compileList(node.args as SyntaxNode[], context);
    case 'map':
      return compileMap(node.args as [SyntaxNode, SyntaxNode][], context);
    case 'call':
    case 'rcall':
      return compileCall(node, context);
    default:
      return compileOperator(node, context);
  }
}

function compileValue(value: unknown, node: SyntaxNode, context: CompileContext): Evaluate {
  if (typeof value === 'bigint') return constant(toExact(String(value)) ?? Number(value));
  const isPlain = value === null || ['string', 'number', 'boolean'].includes(typeof value);
  if (!isPlain) context.report('bytes and unsigned numbers are not supported', node.start);
  return constant(isPlain ? value : null);
}

function constant(value: unknown): Evaluate {
  return () => value;
}

function compileName(name: string, node: SyntaxNode, context: CompileContext): Evaluate {
  const slot = context.locals.lastIndexOf(name);
  if (slot >= 0) return (frame) => frame.locals[slot];
  if (name === 'now') return (frame) => renderMoment(frame.nowMs);
  if (name === 'service') return (frame) => frame.service;
  if (name === 'call') {
    context.report(
      `\`call\` is read by its members: ${Object.keys(CALL_MEMBERS)
        .map((member) => `call.${member}`)
        .join(', ')}`,
      node.start,
    );
    return NULL;
  }
  if (name === 'omit') return () => OMIT;
  if (name === 'row') {
    if (!context.names.row) context.report('this operation picks no `row`', node.start);
    return (frame) => frame.row;
  }
  const root = SCOPE_ROOTS[name];
  if (root !== undefined) {
    reportWholeRoot(name, root, node, context);
    return NULL;
  }
  reportUnknown(`nothing is called \`${name}\``, name, [...NAMES, ...context.locals], node, context);
  return NULL;
}

function reportWholeRoot(name: string, root: ScopeRoot, node: SyntaxNode, context: CompileContext): void {
  const names = root.names(context.names);
  const written = names.map((member) => `${name}.${member}`).join(', ');
  context.report(names.length === 0 ? root.none : `\`${name}\` is read by its names: ${written}`, node.start);
}

let lastMs = Number.NaN;
let lastMoment = '';

/** RFC 3339 text of a moment; many calls come in the same millisecond. */
function renderMoment(ms: number): string {
  if (ms !== lastMs) {
    lastMoment = new Date(ms).toISOString();
    lastMs = ms;
  }
  return lastMoment;
}

function compileMember(node: SyntaxNode, context: CompileContext): Evaluate {
  const [target, name] = node.args as [SyntaxNode, string | SyntaxNode];
  const member = typeof name === 'string' ? name : String(name.args);
  if (isCall(target)) return compileCallMember(member, node, context);
  const named = compileNamed(target, member, node, context) ?? compileScoped(target, member, node, context);
  if (named !== null) return named;
  const keyed = compileKeyedState(target, () => member, context);
  if (keyed !== null) return keyed;
  const read = compileNode(target, context);
  return (frame) => readMember(read(frame), member);
}

function compileIndex(node: SyntaxNode, context: CompileContext): Evaluate {
  const [target, key] = node.args as [SyntaxNode, SyntaxNode];
  if (key.op === 'value' && typeof key.args === 'string') {
    const name = key.args as string;
    const named = compileNamed(target, name, node, context) ?? compileScoped(target, name, node, context);
    if (named !== null) return named;
  }
  if (
    target.op === '.' &&
    isCall((target.args as [SyntaxNode])[0]) &&
    (target.args as [SyntaxNode, string])[1] === 'headers'
  ) {
    const readKey = compileNode(key, context);
    return (frame) => frame.request.header(String(readKey(frame)).toLowerCase()) ?? null;
  }
  const readKey = compileNode(key, context);
  const keyed = compileKeyedState(target, readKey, context);
  if (keyed !== null) return keyed;
  const read = compileNode(target, context);
  return (frame) => readMember(read(frame), readKey(frame));
}

/** `state.pilot`, `data.bookings`, `let.item`, `answer.json`: a root with the name that follows it. */
function compileScoped(target: SyntaxNode, name: string, node: SyntaxNode, context: CompileContext): Evaluate | null {
  if (target.op !== 'id') return null;
  const rootName = unmaskReserved(target.args as string);
  const root = Object.hasOwn(SCOPE_ROOTS, rootName) ? SCOPE_ROOTS[rootName] : undefined;
  if (root === undefined || context.locals.includes(rootName)) return null;
  const names = root.names(context.names);
  if (names.includes(name)) return root.read(name, context.names);
  if (names.length === 0) context.report(root.none, node.start);
  else reportUnknown(root.unknown(name), name, names, node, context);
  return NULL;
}

/** `state.held[key]`: read by its key at once, so that nothing is copied. Null when it is not that. */
function compileKeyedState(target: SyntaxNode, readKey: Evaluate, context: CompileContext): Evaluate | null {
  if (target.op !== '.') return null;
  const [inner, name] = target.args as [SyntaxNode, string];
  if (inner.op !== 'id' || inner.args !== 'state' || !context.names.state.includes(name)) return null;
  return (frame) => {
    const value = frame.lane.data.readState(name, frame.start);
    const key = readKey(frame);
    return Array.isArray(value) ? readMember(value, key) : readMember(value, toText(key));
  };
}

/** `call.path.x`, `call.query['x']`, `call.headers.x`: read straight from the request. */
function compileNamed(target: SyntaxNode, name: string, node: SyntaxNode, context: CompileContext): Evaluate | null {
  if (target.op !== '.') return null;
  const [inner, group] = target.args as [SyntaxNode, string];
  if (!isCall(inner)) return null;
  if (group === 'path' && context.names.path !== null && !context.names.path.includes(name)) {
    reportUnknown(`the path has no parameter \`${name}\``, name, context.names.path, node, context);
  }
  return CALL_MEMBERS[group]?.named?.(name) ?? null;
}

function compileCallMember(member: string, node: SyntaxNode, context: CompileContext): Evaluate {
  const known = Object.hasOwn(CALL_MEMBERS, member) ? CALL_MEMBERS[member] : undefined;
  if (known !== undefined) return known.whole;
  if (CALL_MEMBERS_NOT_YET.includes(member)) context.report(`\`call.${member}\` is not supported yet`, node.start);
  else reportUnknown(`a call has no \`${member}\``, member, Object.keys(CALL_MEMBERS), node, context);
  return NULL;
}

function isCall(node: SyntaxNode | undefined): boolean {
  return node?.op === 'id' && (node.args as unknown) === 'call';
}

function compileList(items: readonly SyntaxNode[], context: CompileContext): Evaluate {
  const reads = items.map((item) => compileNode(item, context));
  return (frame) => reads.map((read) => read(frame));
}

function compileMap(entries: readonly [SyntaxNode, SyntaxNode][], context: CompileContext): Evaluate {
  const reads = entries.map(([key, value]) => [compileNode(key, context), compileNode(value, context)] as const);
  return (frame) =>
    Object.fromEntries(
      reads.map(([key, value]) => [String(key(frame)), value(frame)] as const).filter(([, value]) => value !== OMIT),
    );
}

function compileCall(node: SyntaxNode, context: CompileContext): Evaluate {
  const parts = node.args as [string, SyntaxNode, SyntaxNode[]] | [string, SyntaxNode[]];
  const name = parts[0];
  const receiver = node.op === 'rcall' ? (parts[1] as SyntaxNode) : null;
  const args = (node.op === 'rcall' ? parts[2] : parts[1]) as SyntaxNode[];
  if (receiver !== null && name === 'orValue') return compileOrValue(receiver, args, context);
  if (name === 'fake' && receiver === null) return compileFakeCall(args, node, context);
  if (name === 'jsonpath' && receiver === null) return compileJsonPathCall(args, node, context, compileNode);
  if (name === 'word' && receiver === null) return compileWordCall(args, node, context);
  if (name === 'xpath' && receiver === null) return compileXPathCall(args, node, context, compileNode);
  if (MACROS.has(name) && (receiver !== null || name === 'has'))
    return compileMacro(name, receiver, args, node, context, compileNode);
  const known = FUNCTIONS.get(name);
  if (known === undefined) {
    const all = [...FUNCTIONS.keys(), ...MACROS, 'xpath', 'jsonpath', 'word', 'fake'];
    reportUnknown(`there is no function ${name}()`, name, all, node, context);
    return NULL;
  }
  return compileFunction(name, known, receiver === null ? args : [receiver, ...args], node, context);
}

function compileFunction(
  name: string,
  known: ExpressionFunction,
  args: readonly SyntaxNode[],
  node: SyntaxNode,
  context: CompileContext,
): Evaluate {
  if (args.length < known.least || args.length > known.most) {
    const wanted = known.least === known.most ? `${known.least}` : `${known.least} to ${known.most}`;
    context.report(`${name}() takes ${wanted} arguments, here are ${args.length}`, node.pos);
    return NULL;
  }
  const reads = args.map((arg) => compileNode(arg, context));
  const position = context.takePosition();
  return (frame) => {
    frame.spend(1);
    return known.call(
      reads.map((read) => read(frame)),
      frame,
      frame.drawPosition(position),
    );
  };
}

/** `call.query.?port.orValue('skerry')`: a default for what is not there. */
function compileOrValue(receiver: SyntaxNode, args: readonly SyntaxNode[], context: CompileContext): Evaluate {
  const read = compileNode(receiver, context);
  const other = args[0] === undefined ? NULL : compileNode(args[0], context);
  return (frame) => read(frame) ?? other(frame);
}

function compileOperator(node: SyntaxNode, context: CompileContext): Evaluate {
  const [left, right, other] = (Array.isArray(node.args) ? node.args : [node.args]) as SyntaxNode[];
  if (left === undefined) return NULL;
  if (isDashedHeader(node, left, context)) return NULL;
  const a = compileNode(left, context);
  if (node.op === '!_') return (frame) => !needTruth(a(frame), '!');
  if (node.op === '-_') return (frame) => -needNumber(a(frame), '-');
  const b = right === undefined ? NULL : compileNode(right, context);
  if (node.op === '&&' || node.op === '||') return compileLogic(node.op, a, b);
  if (node.op === '?:') {
    const c = other === undefined ? NULL : compileNode(other, context);
    return (frame) => (needTruth(a(frame), '?') ? b(frame) : c(frame));
  }
  const operator = OPERATORS[node.op];
  if (operator !== undefined) return (frame) => operator(a(frame), b(frame), frame);
  context.report(`${node.op} is not supported`, node.start);
  return NULL;
}

/** `call.headers.x-harbour-key` reads as a subtraction: say how the header is written, once, and leave its pieces alone. */
function isDashedHeader(node: SyntaxNode, left: SyntaxNode, context: CompileContext): boolean {
  let first = left;
  while (first.op === '-') first = (first.args as [SyntaxNode])[0];
  if (node.op !== '-' || first.op !== '.') return false;
  const [target, name] = first.args as [SyntaxNode, string];
  if (target.op !== '.' || (target.args as [SyntaxNode, string])[1] !== 'headers') return false;
  const written = /^[\w-]+/.exec(node.input.slice(first.end - name.length))?.[0] ?? name;
  context.report(`a header with a dash is written call.headers['${written}']`, first.start);
  return true;
}

function reportUnknown(
  message: string,
  word: string,
  candidates: readonly string[],
  node: SyntaxNode,
  context: CompileContext,
): void {
  const nearest = findNearest(word, candidates);
  context.report(
    nearest === null ? `${message}; there is ${candidates.join(', ')}` : `${message}; did you mean \`${nearest}\`?`,
    node.start,
  );
}
