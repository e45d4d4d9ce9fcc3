import { type ComponentType, createContext, useContext } from 'react';
import type { JsonSchema } from '../editor/schema/schema-at.js';
import type { FilePath } from './change-text.js';

/** What every part of a form needs: the schema of the file, and how its text is changed. */
export interface TextForm {
  readonly schema: JsonSchema;
  readonly put: (path: FilePath, value: unknown) => void;
  readonly remove: (path: FilePath) => void;
  /** Another name for the entry of a map. */
  readonly rename: (path: FilePath, name: string) => void;
  readonly move: (path: FilePath, by: -1 | 1) => void;
  /** How one value is edited: maps and lists hold others. */
  readonly Value: ComponentType<ValueProps>;
}

export interface ValueProps {
  readonly path: FilePath;
  readonly value: unknown;
  readonly label: string;
}

export const TextFormContext = createContext<TextForm | null>(null);

export function useTextForm(): TextForm {
  const form = useContext(TextFormContext);
  if (form === null) throw new Error('a part of a form stands outside of it');
  return form;
}

/** A path of the file as one of its schema: any item of a list is like another. */
export function schemaPath(path: FilePath): readonly (string | null)[] {
  return path.map((step) => (typeof step === 'number' ? null : step));
}
