import { faker } from '@faker-js/faker/locale/en';
import { findNearest } from '../definition/nearest.js';
import { drawAt } from '../state/draw.js';
import type { CompileContext } from './compile-context.js';
import { type Evaluate, fail } from './frame.js';
import type { SyntaxNode } from './syntax-node.js';

const NULL: Evaluate = () => null;

/** `fake('person.lastName')`: made-up data of a kind, drawn as all draws are; dates are around the lane's `now`. */
export function compileFakeCall(args: readonly SyntaxNode[], node: SyntaxNode, context: CompileContext): Evaluate {
  const [kind] = args;
  if (kind?.op !== 'value' || typeof kind.args !== 'string' || args.length !== 1) {
    context.report("fake() takes a kind that is written out: fake('person.lastName')", node.pos);
    return NULL;
  }
  const name = kind.args;
  const make = MAKERS.get(name);
  if (make === undefined) {
    const nearest = findNearest(name, [...MAKERS.keys()]);
    const hint = nearest === null ? `there is person.fullName, location.city ...` : `did you mean \`${nearest}\`?`;
    context.report(`nothing of the kind \`${name}\` can be made up; ${hint}`, kind.start);
    return NULL;
  }
  if (!isMadeOfNothing(make)) {
    context.report(`\`${name}\` cannot be made up without more being said`, kind.start);
    return NULL;
  }
  const position = context.takePosition();
  return (frame) => {
    frame.spend(1);
    faker.seed(drawAt(frame.drawHash, frame.drawPosition(position)));
    faker.setDefaultRefDate(frame.nowMs);
    try {
      return toValue(make());
    } catch (error) {
      return fail(`nothing of the kind ${name} could be made up: ${(error as Error).message}`);
    }
  };
}

/** Some kinds need arguments, which there are none of. */
function isMadeOfNothing(make: () => unknown): boolean {
  try {
    make();
    return true;
  } catch {
    return false;
  }
}

/** What gives plain values; draws of ours and helpers of the library are left out. */
const MODULES = [
  ...['airline', 'animal', 'book', 'color', 'commerce', 'company', 'database', 'datatype', 'date', 'finance', 'food'],
  ...['git', 'hacker', 'internet', 'location', 'lorem', 'music', 'number', 'person', 'phone', 'science', 'string'],
  ...['system', 'vehicle', 'word'],
] as const;

const MAKERS: ReadonlyMap<string, () => unknown> = findMakers();

function findMakers(): Map<string, () => unknown> {
  const makers = new Map<string, () => unknown>();
  for (const module of MODULES) {
    const own = faker[module] as unknown as Record<string, unknown>;
    for (const name of namesOf(own)) {
      const make = own[name];
      if (typeof make === 'function') makers.set(`${module}.${name}`, () => make.call(own));
    }
  }
  return makers;
}

function namesOf(module: object): string[] {
  const names = new Set<string>(Object.keys(module));
  for (let at = Object.getPrototypeOf(module); at !== null && at !== Object.prototype; at = Object.getPrototypeOf(at))
    for (const name of Object.getOwnPropertyNames(at)) names.add(name);
  return [...names].filter((name) => name !== 'constructor' && name !== 'faker' && !name.startsWith('_'));
}

/** Values as JSON has them: dates as RFC 3339, whole numbers beyond it as text. */
function toValue(made: unknown): unknown {
  if (made instanceof Date) return made.toISOString();
  if (typeof made === 'bigint') return String(made);
  if (Array.isArray(made)) return made.map(toValue);
  if (made === null || typeof made !== 'object') return made ?? null;
  return Object.fromEntries(Object.entries(made).map(([key, own]) => [key, toValue(own)]));
}
