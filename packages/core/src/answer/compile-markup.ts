import type { PathKey } from '../definition/yaml-source.js';
import type { Frame } from '../expression/frame.js';
import { parseTemplate } from '../expression/template.js';
import { toText } from '../expression/value.js';
import { escapeMarkup } from '../xml/markup-text.js';
import { parseXml } from '../xml/parse-xml.js';
import { compileText, type TextScope } from './compile-text.js';

/** XML of the file: a text, or how it is made for a call. */
export type CompiledMarkup = string | ((frame: Frame) => string);

/** `document`: one root element; `content`: what stands within an element that declares the prefix `soap`. */
type MarkupKind = 'document' | 'content';

const ENVELOPE = ['<x xmlns:soap="urn:x">', '</x>'] as const;

/** Markup whose expressions insert text: what a call brings never becomes elements. Checked to be well-formed at save. */
export function compileMarkup(
  markup: string,
  kind: MarkupKind,
  path: readonly PathKey[],
  scope: TextScope,
): CompiledMarkup {
  reportMalformed(markup, kind, path, scope);
  const compiled = compileText(markup, path, scope, insertText);
  if (compiled.kind === 'constant') return compiled.text;
  return compiled.kind === 'mixed' ? compiled.evaluate : (frame) => insertText(compiled.evaluate(frame));
}

function insertText(value: unknown): string {
  return escapeMarkup(toText(value));
}

function reportMalformed(markup: string, kind: MarkupKind, path: readonly PathKey[], scope: TextScope): void {
  const template = parseTemplate(markup);
  if (template.kind === 'unterminated') return;
  const text = template.parts.map((part) => (part.kind === 'text' ? part.text : 'x')).join('');
  const [open, close] = kind === 'content' ? ENVELOPE : ['', ''];
  const parsed = parseXml(open + text + close);
  if (parsed.kind === 'broken') scope.report(`not well-formed XML (its line ${parsed.line}): ${parsed.reason}`, path);
}
