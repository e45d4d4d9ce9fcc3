import type { Answer } from '../definition/answer.js';
import type { PathKey } from '../definition/yaml-source.js';
import type { Frame } from '../expression/frame.js';
import { OMIT, toText } from '../expression/value.js';
import { escapeMarkup } from '../xml/markup-text.js';
import { compileData } from './compile-data.js';
import { compileJson } from './compile-json.js';
import { compileMarkup } from './compile-markup.js';
import { compileText, type TextScope } from './compile-text.js';
import type { BodyForm } from './content-types.js';

export type CompiledBody = string | Uint8Array | null | ((frame: Frame) => string);

/** The body of an answer in one of its forms: constant, or written anew for each call. */
export function compileBody(
  answer: Answer,
  form: BodyForm,
  status: number | ((frame: Frame) => number),
  path: readonly PathKey[],
  scope: TextScope,
): CompiledBody {
  switch (form) {
    case 'json':
      return compileJson(answer.json, path, scope);
    case 'text':
      return compilePlainText(answer.text ?? '', path, scope);
    case 'html':
      return compileHtml(answer.html ?? '', path, scope);
    case 'xml':
      return compileMarkup(answer.xml ?? '', 'document', path, scope);
    case 'form':
      return compileForm(answer.form ?? {}, path, scope);
    case 'problem':
      return compileJson({ ...(typeof status === 'number' ? { status } : {}), ...answer.problem }, path, scope);
    case 'base64':
      return fromBase64(answer.base64 ?? '');
    case 'file':
      return fromBase64(answer.file !== undefined && 'content' in answer.file ? answer.file.content : '');
    default:
      return null;
  }
}

function compilePlainText(text: string, path: readonly PathKey[], scope: TextScope): CompiledBody {
  const compiled = compileText(text, path, scope);
  return compiled.kind === 'constant' ? compiled.text : (frame) => toText(compiled.evaluate(frame));
}

/** What expressions bring into HTML is text, never elements. */
function compileHtml(html: string, path: readonly PathKey[], scope: TextScope): CompiledBody {
  const insert = (value: unknown): string => escapeMarkup(toText(value));
  const compiled = compileText(html, path, scope, insert);
  if (compiled.kind === 'constant') return compiled.text;
  return compiled.kind === 'mixed' ? compiled.evaluate : (frame) => insert(compiled.evaluate(frame));
}

/** `application/x-www-form-urlencoded`: a list gives its field several times, null and `omit` leave it out. */
function compileForm(fields: object, path: readonly PathKey[], scope: TextScope): CompiledBody {
  const data = compileData(fields, path, scope);
  const write = (value: unknown): string => {
    const pairs = Object.entries(value as object).flatMap(([name, own]) =>
      (Array.isArray(own) ? own : [own])
        .filter((item) => item !== null && item !== undefined && item !== OMIT)
        .map((item): [string, string] => [name, toText(item)]),
    );
    return new URLSearchParams(pairs).toString();
  };
  return data.kind === 'constant' ? write(data.value) : (frame) => write(data.evaluate(frame));
}

function fromBase64(text: string): Uint8Array {
  return Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
}
