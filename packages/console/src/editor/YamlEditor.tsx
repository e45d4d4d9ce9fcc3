import { yaml } from '@codemirror/lang-yaml';
import { HighlightStyle, syntaxHighlighting } from '@codemirror/language';
import { type Diagnostic, lintGutter, setDiagnostics } from '@codemirror/lint';
import { Compartment } from '@codemirror/state';
import { EditorView } from '@codemirror/view';
import { tags } from '@lezer/highlight';
import { useQuery } from '@tanstack/react-query';
import { basicSetup } from 'codemirror';
import { useEffect, useRef } from 'react';
import type { Mistake } from '../api/describe-error.js';
import { schemaQuery } from '../api/queries.js';
import { color, corner, font } from '../theme/tokens.js';
import type { YamlPath } from './schema/place-in-yaml.js';
import { schemaHelp } from './schema/schema-help.js';

export interface YamlEditorProps {
  /** The text to begin with; a new one (after a save) replaces what stands there. */
  readonly text: string;
  readonly onChange: (text: string) => void;
  readonly mistakes: readonly Mistake[];
  /** What is not as the contract says: told on its line, not refused. */
  readonly findings?: readonly Mistake[];
  readonly label: string;
  /** Where in a service file the text stands: keys are completed and explained by it; left out: they are not. */
  readonly place?: YamlPath;
}

const looks = EditorView.theme({
  '&': { border: `1px solid ${color.hairline}`, borderRadius: corner, background: color.panel, fontSize: '13px' },
  '&.cm-focused': { outline: `2px solid ${color.water}` },
  '.cm-scroller': { fontFamily: font.mono, lineHeight: '1.5' },
  '.cm-gutters': { background: color.sunken, color: color.faint, border: 'none' },
  '.cm-activeLine, .cm-activeLineGutter': { background: 'color-mix(in srgb, var(--water) 7%, transparent)' },
  '.cm-cursor': { borderLeftColor: color.ink },
  '.cm-content': { caretColor: color.ink },
  // The editor's own marks are data: images, which the page's policy does not allow.
  '.cm-lintRange-error': { backgroundImage: 'none', textDecoration: `underline wavy ${color.vermilion}` },
  '.cm-lint-marker-error': { content: 'normal' },
  '.cm-lint-marker-error::before': { content: '"✕"', color: color.vermilion },
  '.cm-lintRange-warning': { backgroundImage: 'none', textDecoration: `underline wavy ${color.brass}` },
  '.cm-lint-marker-warning': { content: 'normal' },
  '.cm-lint-marker-warning::before': { content: '"▲"', color: color.brass },
  '.cm-foldGutter': { width: '14px' },
  '.cm-tooltip': {
    background: color.panel,
    color: color.ink,
    border: `1px solid ${color.hairline}`,
    borderRadius: corner,
  },
  '.cm-tooltip.cm-tooltip-autocomplete > ul': { fontFamily: font.mono, fontSize: '12.5px' },
  '.cm-tooltip.cm-tooltip-autocomplete > ul > li[aria-selected]': { background: color.water, color: color.onWater },
  '.cm-completionInfo, .cm-key-help': {
    fontFamily: font.text,
    fontSize: '13px',
    padding: '4px 8px',
    maxWidth: '420px',
  },
  '.cm-completionIcon': { display: 'none' },
});

const tints = HighlightStyle.define([
  { tag: [tags.propertyName, tags.definition(tags.propertyName)], color: color.water },
  { tag: tags.string, color: color.ink },
  { tag: [tags.number, tags.bool, tags.null], color: color.plum },
  { tag: tags.comment, color: color.faint, fontStyle: 'italic' },
  { tag: [tags.punctuation, tags.separator], color: color.faint },
]);

const NONE: readonly Mistake[] = [];

/** A code editor for YAML, with the mistakes the service found on their lines. Loaded only when a text is edited. */
export default function YamlEditor({ text, onChange, mistakes, findings = NONE, label, place }: YamlEditorProps) {
  const { data: schema } = useQuery({ ...schemaQuery, enabled: place !== undefined });
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const changed = useRef(onChange);
  const help = useRef(new Compartment());
  changed.current = onChange;

  useEffect(() => {
    const nonce = document.querySelector<HTMLMetaElement>('meta[property=csp-nonce]')?.nonce ?? '';
    const editor = new EditorView({
      parent: host.current as HTMLDivElement,
      extensions: [
        EditorView.cspNonce.of(nonce),
        basicSetup,
        yaml(),
        EditorView.lineWrapping,
        looks,
        syntaxHighlighting(tints),
        lintGutter(),
        help.current.of([]),
        EditorView.contentAttributes.of({ 'aria-label': label }),
        EditorView.updateListener.of((update) => {
          if (update.docChanged) changed.current(update.state.doc.toString());
        }),
      ],
    });
    view.current = editor;
    return () => editor.destroy();
  }, [label]);

  const base = JSON.stringify(place ?? []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new label makes a new editor, which needs its help again
  useEffect(() => {
    const extension = schema === undefined ? [] : schemaHelp(schema, JSON.parse(base) as YamlPath);
    view.current?.dispatch({ effects: help.current.reconfigure(extension) });
  }, [schema, base, label]);

  useEffect(() => {
    const editor = view.current;
    if (editor === null || editor.state.doc.toString() === text) return;
    editor.dispatch({ changes: { from: 0, to: editor.state.doc.length, insert: text } });
  }, [text]);

  useEffect(() => {
    const editor = view.current;
    if (editor === null) return;
    const diagnostics = [...toDiagnostics(editor, mistakes, 'error'), ...toDiagnostics(editor, findings, 'warning')];
    editor.dispatch(setDiagnostics(editor.state, diagnostics));
  }, [mistakes, findings]);

  return <div ref={host} />;
}

function toDiagnostics(editor: EditorView, mistakes: readonly Mistake[], severity: 'error' | 'warning'): Diagnostic[] {
  return mistakes.map(({ line, column, message }) => {
    const at = editor.state.doc.line(Math.min(line, editor.state.doc.lines));
    const from = Math.min(at.from + column - 1, at.to);
    return { from, to: Math.max(from, at.to), severity, message };
  });
}
