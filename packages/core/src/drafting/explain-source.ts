import type { Heard } from './heard.js';
import type { ValueFlow } from './value-flow.js';

/** A value an answer could have been made from: the expression that reads it, what it was, and what it is called. */
export interface Source {
  readonly text: string;
  readonly value: unknown;
  readonly name: string;
}

/** One exchange whose values are to be explained, with what could have made them. The same source has the same text in all. */
export interface Instance {
  readonly heard: Heard;
  readonly sources: ReadonlyMap<string, Source>;
}

export interface ExplainOptions {
  readonly flow: ValueFlow;
  /** Whether values that were made on the spot become expressions that make such values. */
  readonly makes: boolean;
  /** A name for the counter behind a value made at this member. */
  readonly counterName: (member: string) => string;
}
