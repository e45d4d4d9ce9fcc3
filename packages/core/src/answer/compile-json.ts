import type { PathKey } from '../definition/yaml-source.js';
import type { Frame } from '../expression/frame.js';
import { OMIT } from '../expression/value.js';
import { writeExact } from '../json/exact-json.js';
import { compileText, type TextScope } from './compile-text.js';

/** JSON text in pieces: constant text between closures that give the JSON text of one value. */
type Piece = string | ((frame: Frame) => string);

/** A JSON value of the file as its text: constant, or written anew for each call. Only what holds expressions is computed. */
export function compileJson(
  value: unknown,
  path: readonly PathKey[],
  scope: TextScope,
): string | ((frame: Frame) => string) {
  const pieces: Piece[] = [];
  writePieces(value, path, scope, pieces);
  const [first] = pieces;
  if (pieces.length === 1 && first !== undefined) return first;
  return (frame) => {
    let text = '';
    for (const piece of pieces) text += typeof piece === 'string' ? piece : piece(frame);
    return text;
  };
}

function writePieces(value: unknown, path: readonly PathKey[], scope: TextScope, pieces: Piece[]): void {
  if (typeof value === 'string') pushText(value, path, scope, pieces);
  else if (Array.isArray(value)) writeList(value, path, scope, pieces);
  else if (value !== null && typeof value === 'object') writeMap(value, path, scope, pieces);
  else pushConstant(JSON.stringify(value), pieces);
}

function writeList(items: readonly unknown[], path: readonly PathKey[], scope: TextScope, pieces: Piece[]): void {
  pushConstant('[', pieces);
  for (const [i, item] of items.entries()) {
    if (i > 0) pushConstant(',', pieces);
    writePieces(item, [...path, i], scope, pieces);
  }
  pushConstant(']', pieces);
}

function writeMap(map: object, path: readonly PathKey[], scope: TextScope, pieces: Piece[]): void {
  if (Object.values(map).some(mayBeOmitted)) {
    pieces.push(compileGappyMap(map, path, scope));
    return;
  }
  pushConstant('{', pieces);
  for (const [i, [key, member]] of Object.entries(map).entries()) {
    pushConstant(`${i > 0 ? ',' : ''}${JSON.stringify(key)}:`, pieces);
    writePieces(member, [...path, key], scope, pieces);
  }
  pushConstant('}', pieces);
}

const MENTIONS_OMIT = /\bomit\b/;

function mayBeOmitted(member: unknown): boolean {
  return typeof member === 'string' && member.startsWith('${') && MENTIONS_OMIT.test(member);
}

/** A map some of whose members may be left out: which of them, and with them the commas, is known on the call only. */
function compileGappyMap(map: object, path: readonly PathKey[], scope: TextScope): (frame: Frame) => string {
  const members = Object.entries(map).map(([key, member]) => {
    const name = `${JSON.stringify(key)}:`;
    if (!mayBeOmitted(member)) {
      const text = compileJson(member, [...path, key], scope);
      return typeof text === 'string' ? () => name + text : (frame: Frame) => name + text(frame);
    }
    const compiled = compileText(member as string, [...path, key], scope);
    if (compiled.kind === 'constant') return () => name + JSON.stringify(compiled.text);
    return (frame: Frame) => {
      const value = compiled.evaluate(frame);
      return value === OMIT ? null : name + writeExact(value ?? null);
    };
  });
  return (frame) =>
    `{${members
      .map((write) => write(frame))
      .filter((text) => text !== null)
      .join(',')}}`;
}

function pushText(text: string, path: readonly PathKey[], scope: TextScope, pieces: Piece[]): void {
  const compiled = compileText(text, path, scope);
  if (compiled.kind === 'constant') {
    pushConstant(JSON.stringify(compiled.text), pieces);
    return;
  }
  const { evaluate } = compiled;
  pieces.push((frame) => {
    const value = evaluate(frame);
    return writeExact(value === OMIT ? null : (value ?? null));
  });
}

function pushConstant(text: string, pieces: Piece[]): void {
  const last = pieces.at(-1);
  if (typeof last === 'string') pieces[pieces.length - 1] = last + text;
  else pieces.push(text);
}
