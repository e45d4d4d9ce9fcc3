import { lazy, Suspense } from 'react';
import { Faint } from '../ui/Panel.js';
import type { YamlEditorProps } from './YamlEditor.js';

const YamlEditor = lazy(() => import('./YamlEditor.js'));

/** The editor, loaded when it is first needed. */
export function LazyEditor(props: YamlEditorProps) {
  return (
    <Suspense fallback={<Faint>loading the editor ...</Faint>}>
      <YamlEditor {...props} />
    </Suspense>
  );
}
