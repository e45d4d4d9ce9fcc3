import type { CompileContext, CompileNode } from './compile-context.js';
import { needTruth, someTurn } from './compile-logic.js';
import { type Evaluate, type Frame, fail } from './frame.js';
import type { SyntaxNode } from './syntax-node.js';
import { isMapValue, typeName } from './value.js';

/** The loops and tests of CEL that take a variable or a path instead of values. */
export const MACROS: ReadonlySet<string> = new Set(['has', 'all', 'exists', 'exists_one', 'map', 'filter']);

export function compileMacro(
  name: string,
  receiver: SyntaxNode | null,
  args: readonly SyntaxNode[],
  node: SyntaxNode,
  context: CompileContext,
  compileNode: CompileNode,
): Evaluate {
  if (receiver === null) return compileHas(args, node, context, compileNode);
  const [variable, body] = args;
  if (variable === undefined || body === undefined || args.length !== 2 || variable.op !== 'id') {
    context.report(`${name} is written list.${name}(item, expression)`, node.pos);
    return () => null;
  }
  const readList = compileNode(receiver, context);
  const slot = context.locals.length;
  const inner = compileNode(body, { ...context, locals: [...context.locals, variable.args as string] });
  const loop = LOOPS[name] ?? (() => null);
  return (frame) => loop(itemsOf(readList(frame), name), (item, i) => runTurn(frame, slot, item, i, inner), frame);
}

function compileHas(
  args: readonly SyntaxNode[],
  node: SyntaxNode,
  context: CompileContext,
  compileNode: CompileNode,
): Evaluate {
  const [path] = args;
  if (path === undefined || args.length !== 1 || path.op !== '.') {
    context.report('has is written has(call.json.member)', node.pos);
    return () => null;
  }
  const read = compileNode(path, context);
  return (frame) => (read(frame) ?? null) !== null;
}

/** One turn of a loop: the variable is set, a step is paid, and draws inside know which turn they are in. */
function runTurn(frame: Frame, slot: number, item: unknown, turn: number, inner: Evaluate): unknown {
  frame.spend(1);
  const outerTurn = frame.loopTurn;
  frame.locals[slot] = item;
  frame.loopTurn = outerTurn * 1009 + turn + 1; // 1009 (a prime): turns of nested loops do not meet
  try {
    return inner(frame);
  } finally {
    frame.loopTurn = outerTurn;
  }
}

type Turn = (item: unknown, index: number) => unknown;

const LOOPS: Readonly<Record<string, (items: readonly unknown[], turn: Turn, frame: Frame) => unknown>> = {
  map: (items, turn) => items.map(turn),
  filter: (items, turn) => items.filter((item, i) => needTruth(turn(item, i), 'filter')),
  all: (items, turn, frame) => !someTurn(items, turn, false, 'all', frame),
  exists: (items, turn, frame) => someTurn(items, turn, true, 'exists', frame),
  exists_one: (items, turn) => items.filter((item, i) => needTruth(turn(item, i), 'exists_one')).length === 1,
};

function itemsOf(value: unknown, name: string): readonly unknown[] {
  if (Array.isArray(value)) return value;
  return isMapValue(value) ? Object.keys(value) : fail(`${name} goes through a list or a map, not ${typeName(value)}`);
}
