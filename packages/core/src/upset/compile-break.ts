import type { BREAKS, BreakDefinition } from '../definition/break.js';

/** How the wire breaks in the place of an answer, and whether the call's changes are kept. */
export interface CompiledBreak {
  readonly as: (typeof BREAKS)[number];
  readonly isKept: boolean;
}

export function compileBreak(definition: BreakDefinition): CompiledBreak {
  if (typeof definition === 'string') return { as: definition, isKept: true };
  const { as, kept = true } = definition;
  return { as, isKept: kept === true || kept === 'yes' };
}
