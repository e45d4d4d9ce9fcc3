import { compileText, type TextScope } from '../answer/compile-text.js';
import type { SignDefinition } from '../definition/callback.js';
import type { PathKey } from '../definition/yaml-source.js';
import { signBytes } from '../expression/coding-functions.js';
import type { Frame } from '../expression/frame.js';
import { toText } from '../expression/value.js';

/** The header by which a callback is signed, for its body: name and value. */
export type CompiledSign = (frame: Frame, body: string | Uint8Array | null) => readonly [string, string];

const ENCODER = new TextEncoder();

export function compileSign(sign: SignDefinition, path: readonly PathKey[], scope: TextScope): CompiledSign {
  const { header, digest, coding, prefix = '', over } = sign;
  const read = (text: string, name: string): ((frame: Frame) => string) => {
    const compiled = compileText(text, [...path, name], scope);
    return compiled.kind === 'constant' ? () => compiled.text : (frame) => toText(compiled.evaluate(frame));
  };
  const key = read(sign.key, 'key');
  const readOver = over === undefined ? null : read(over, 'over');
  return (frame, body) => {
    const signed = readOver === null ? (body ?? '') : readOver(frame);
    const bytes = typeof signed === 'string' ? ENCODER.encode(signed) : signed;
    return [header, `${prefix}${signBytes(ENCODER.encode(key(frame)), bytes, digest, coding)}`];
  };
}
