import { parseTemplate } from '../../expression/template.js';

/** A name of a file that is made from the call: what stands before and after what is made. */
export interface FilePattern {
  /** With a slash at its end: `./charts/`. */
  readonly folder: string;
  readonly start: string;
  readonly end: string;
}

/** `./charts/${call.path.id}.png`: a file of one folder, whose name the call says; null: it is no such name. */
export function parseFilePattern(text: unknown): FilePattern | null {
  if (typeof text !== 'string' || !text.startsWith('./') || !text.includes('${')) return null;
  const template = parseTemplate(text);
  if (template.kind === 'unterminated') return null;
  const [first, last] = [template.parts[0], template.parts.at(-1)];
  if (first?.kind !== 'text') return null;
  const slash = first.text.lastIndexOf('/') + 1;
  const end = last?.kind === 'text' ? last.text : '';
  if (end.includes('/') || !/\.[A-Za-z0-9]{1,8}$/.test(end)) return null;
  return { folder: first.text.slice(0, slash), start: first.text.slice(slash), end };
}

/** The names that a pattern may come to, of those there are. */
export function namesOfPattern({ folder, start, end }: FilePattern, names: readonly string[]): string[] {
  return names.filter((name) => {
    const own = name.startsWith(folder) ? name.slice(folder.length) : '/';
    return !own.includes('/') && own.length >= start.length + end.length && own.startsWith(start) && own.endsWith(end);
  });
}
