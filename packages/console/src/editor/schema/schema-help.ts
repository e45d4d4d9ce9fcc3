import type { CompletionContext, CompletionResult } from '@codemirror/autocomplete';
import { yamlLanguage } from '@codemirror/lang-yaml';
import type { Extension } from '@codemirror/state';
import { hoverTooltip } from '@codemirror/view';
import { knownNames } from './known-names.js';
import { placeInYaml, type YamlPath } from './place-in-yaml.js';
import { helpFor, type JsonSchema, type Offer, offerKeys, offerValues } from './schema-at.js';

/** Keys and values offered while one types, and what a key means where the pointer rests. `base`: where in the file the text stands. */
export function schemaHelp(schema: JsonSchema, base: YamlPath): Extension {
  return [
    yamlLanguage.data.of({ autocomplete: (context: CompletionContext) => complete(context, schema, base) }),
    hoverTooltip((view, position) => {
      const line = view.state.doc.lineAt(position);
      const word = wordAround(line.text, position - line.from);
      if (word === null) return null;
      const place = placeInYaml(view.state.doc.toString(), line.from + word.from);
      const help = place.key === null ? helpFor(schema, [...base, ...place.path], word.text) : '';
      if (help === '') return null;
      return {
        pos: line.from + word.from,
        end: line.from + word.to,
        above: true,
        create: () => ({ dom: renderHelp(help) }),
      };
    }),
  ];
}

function complete(
  { state, pos, explicit }: CompletionContext,
  schema: JsonSchema,
  base: YamlPath,
): CompletionResult | null {
  const { path, key, from, siblings } = placeInYaml(state.doc.toString(), pos);
  if (from === pos && !explicit) return null;
  const place = [...base, ...path];
  const offers =
    key === null
      ? offerRest(state.doc.toString(), from, offerKeys(schema, place)).filter(
          ({ text }) => !siblings.has(text) || text === state.sliceDoc(from, pos),
        )
      : offerValues(schema, place, key);
  if (offers.length === 0) return null;
  return {
    from,
    validFor: /^[\w-]*$/,
    options: offers.map((offer) => ({
      label: offer.text,
      info: offer.help === '' ? undefined : offer.help,
      type: key === null ? 'property' : 'enum',
      apply: key === null ? applyKey(offer) : offer.text,
    })),
  } as CompletionResult;
}

/** Behind `query ` the names that are known there; else the keys themselves. */
function offerRest(text: string, from: number, offers: readonly Offer[]): readonly Offer[] {
  const [begun] = /[\w-]+ $/.exec(text.slice(text.lastIndexOf('\n', from - 1) + 1, from)) ?? [];
  const prefix = offers.find((offer) => offer.isPrefix && offer.text === begun);
  if (prefix === undefined) return offers;
  return knownNames(text, prefix.text).map((name) => ({ ...prefix, text: name, isPrefix: false }));
}

function applyKey({ text, isNested, isPrefix }: Offer): string {
  if (isPrefix) return text;
  return isNested ? `${text}:` : `${text}: `;
}

/** The key that a column of a line is in, such as `case` or `query port`. */
function wordAround(
  line: string,
  column: number,
): { readonly from: number; readonly to: number; readonly text: string } | null {
  for (const match of line.matchAll(/[\w$-]+(?: [^\s:{}][^:{}]*)?(?=\s*:)/g)) {
    const from = match.index;
    const to = from + match[0].length;
    if (column >= from && column <= to) return { from, to, text: match[0] };
  }
  return null;
}

function renderHelp(help: string): HTMLElement {
  const box = document.createElement('div');
  box.textContent = help;
  box.className = 'cm-key-help';
  return box;
}
