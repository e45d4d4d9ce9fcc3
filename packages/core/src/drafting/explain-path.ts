import { escapeTemplate } from '../expression/template.js';
import type { Instance, Source } from './explain-source.js';

/**
 * A path or link whose segments are read from the call or from what was made, however short they are: `/shelves/3/boxes/1`
 * -> `/shelves/${call.path.shelf}/boxes/${let.box.box}`. Null when it is no path, or nothing in it is read.
 */
export function explainPath(targets: readonly unknown[], instances: readonly Instance[]): string | null {
  if (!targets.every((target) => typeof target === 'string' && target.length <= LONGEST)) return null;
  const texts = targets as readonly string[];
  const isLink = texts.every((text, i) => text.startsWith(`${instances[i]?.heard.exchange.origin}/`));
  const paths = isLink ? texts.map((text, i) => text.slice(instances[i]?.heard.exchange.origin.length)) : texts;
  if (!paths.every((path) => PATH.test(path))) return null;
  const segments = paths.map((path) => path.slice(1).split('/'));
  const length = segments[0]?.length ?? 0;
  if (length < 2 || segments.some((own) => own.length !== length)) return null;
  const used = new Set<string>();
  const pieces = Array.from({ length }, (_, i) =>
    explainSegment(
      segments.map((own) => own[i] ?? ''),
      i,
      instances,
      used,
    ),
  );
  if (used.size === 0 || pieces.includes(null)) return null;
  return `${isLink ? '${call.origin}' : ''}/${pieces.join('/')}`;
}

const LONGEST = 500;
const PATH = /^\/[^\s?#]+$/;

/** One segment in all instances; null when it varies and nothing gives it. */
function explainSegment(
  values: readonly string[],
  index: number,
  instances: readonly Instance[],
  used: Set<string>,
): string | null {
  const isVaried = new Set(values).size > 1;
  const gives = ({ text }: Source): boolean =>
    !used.has(text) &&
    values.every((value, i) => {
      const own = instances[i]?.sources.get(text)?.value;
      return (typeof own === 'string' || typeof own === 'number') && String(own) === value;
    });
  // The path of the call stands first: what a parameter gave there, it gives here, whatever else has the value.
  const isOfCall = instances.every(({ heard }, i) => heard.segments[index] === values[i]);
  const sources = [...(instances[0]?.sources.values() ?? [])];
  const own = isOfCall ? sources.find((source) => source.text.startsWith('call.path.') && gives(source)) : undefined;
  const made = sources.find(
    (source) => (isVaried || (source.text.startsWith('let.') && /\d/.test(values[0] ?? ''))) && gives(source),
  );
  const source = own ?? made;
  if (source === undefined) return isVaried ? null : escapeTemplate(values[0] ?? '');
  used.add(source.text);
  return `\${${source.text}}`;
}
