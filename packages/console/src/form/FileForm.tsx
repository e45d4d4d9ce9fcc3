import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { schemaQuery } from '../api/queries.js';
import { Empty, Faint } from '../ui/Panel.js';
import { moveItem, putValue, readText, removeValue, renameKey } from './change-text.js';
import { isMap } from './form-shape.js';
import { MapForm } from './MapForm.js';
import { type TextForm, TextFormContext } from './useTextForm.js';
import { ValueField } from './ValueField.js';

export interface FileFormProps {
  readonly text: string;
  readonly onChange: (text: string) => void;
}

/** A service file as a form: every key there is, with what it means; each change is one of the text, whose comments stay. */
export default function FileForm({ text, onChange }: FileFormProps) {
  const { data: schema } = useQuery(schemaQuery);
  const value = useMemo(() => readText(text), [text]);
  const form = useMemo<TextForm>(
    () => ({
      schema: schema ?? {},
      put: (path, own) => onChange(putValue(text, path, own)),
      remove: (path) => onChange(removeValue(text, path)),
      rename: (path, name) => onChange(renameKey(text, path, name)),
      move: (path, by) => onChange(moveItem(text, path, by)),
      Value: ValueField,
    }),
    [schema, text, onChange],
  );
  if (schema === undefined) return <Faint>loading ...</Faint>;
  if (!isMap(value)) return <Empty>The text cannot be read as it is: mend it as text, then it is a form again.</Empty>;
  return (
    <TextFormContext value={form}>
      <MapForm path={[]} value={value} isOpen={false} />
    </TextFormContext>
  );
}
