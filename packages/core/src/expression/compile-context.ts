import type { Lexicon } from '../definition/lexicon.js';
import type { Namespaces } from '../xml/compile-xpath.js';
import type { Evaluate } from './frame.js';
import type { SyntaxNode } from './syntax-node.js';

/** What is wrong with an expression, and how many characters into it. */
export type ReportProblem = (message: string, offset: number) => void;

/** The names an expression may use at its place in the file, beside `call`, `now` and `service`. */
export interface NamesInScope {
  /** Names of the path parameters there are; null when any may come. */
  readonly path: readonly string[] | null;
  readonly state: readonly string[];
  readonly datasets: readonly string[];
  /** Names of `let`, in the order of their values in the frame. */
  readonly lets: readonly string[];
  readonly row: boolean;
  readonly answer: boolean;
  /** Whether `page` and `trouble` are there: in the answers of a resource. */
  readonly resource: boolean;
  /** The prefixes that XPath may use. */
  readonly namespaces: Namespaces;
  /** The words that word() draws from; null: the file has none. */
  readonly lexicon: Lexicon | null;
  /** The variables of the service, as the environment in use has them. */
  readonly vars: ReadonlyMap<string, unknown>;
}

/** Nothing but the call itself. */
export const ONLY_THE_CALL: NamesInScope = {
  path: null,
  state: [],
  datasets: [],
  lets: [],
  row: false,
  answer: false,
  resource: false,
  namespaces: {},
  lexicon: null,
  vars: new Map(),
};

/** What compiling one expression needs to know and to count. */
export interface CompileContext {
  readonly report: ReportProblem;
  readonly names: NamesInScope;
  /** Gives each draw in a case its own position, in file order. */
  readonly takePosition: () => number;
  /** Loop variables around this place, innermost last: index = slot in `frame.locals`. */
  readonly locals: readonly string[];
}

export type CompileNode = (node: SyntaxNode, context: CompileContext) => Evaluate;
