import { type Lexicon, wordsFor } from '../definition/lexicon.js';
import { findNearest } from '../definition/nearest.js';
import { fractionAt } from '../state/draw.js';
import type { CompileContext } from './compile-context.js';
import type { Evaluate } from './frame.js';
import type { SyntaxNode } from './syntax-node.js';

/** `word('vesselName')`: one of the words that the service's `lexicon` has for it, drawn as all draws are. */
export function compileWordCall(args: readonly SyntaxNode[], node: SyntaxNode, context: CompileContext): Evaluate {
  const [name] = args;
  if (name?.op !== 'value' || typeof name.args !== 'string' || args.length !== 1) {
    context.report("word() takes a name of the lexicon that is written out: word('vesselName')", node.pos);
    return () => null;
  }
  const { lexicon } = context.names;
  const words = lexicon === null ? [] : wordsFor(lexicon, name.args, null);
  if (words.length === 0) context.report(describeUnknown(name.args, lexicon), name.start);
  const position = context.takePosition();
  return (frame) => {
    frame.spend(1);
    const fraction = fractionAt(frame.drawHash, frame.drawPosition(position));
    return words[Math.floor(fraction * words.length)] ?? null;
  };
}

function describeUnknown(name: string, lexicon: Lexicon | null): string {
  if (lexicon === null) return `the service file has no \`lexicon\`: lexicon: { ${name}: [...] }`;
  const names = Object.keys(lexicon).filter((own) => own !== 'in');
  const nearest = findNearest(name, names);
  return `the lexicon has no \`${name}\`${nearest === null ? `; it has ${names.join(', ')}` : `; did you mean \`${nearest}\`?`}`;
}
