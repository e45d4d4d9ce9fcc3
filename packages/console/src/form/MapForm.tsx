import { useRef, useState } from 'react';
import styled from 'styled-components';
import { helpFor, type JsonSchema, schemasAt } from '../editor/schema/schema-at.js';
import { color, font, space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { box } from './box.js';
import type { FilePath } from './change-text.js';
import { Foldable } from './Foldable.js';
import { isMap, missingKeys, startingValue } from './form-shape.js';
import { RenameKey } from './RenameKey.js';
import { schemaPath, useTextForm } from './useTextForm.js';

const Rows = styled.div`
  display: flex;
  flex-direction: column;
  gap: ${space.xs};
`;

const Row = styled.div`
  display: grid;
  grid-template-columns: 150px minmax(0, 1fr) auto;
  gap: ${space.s};
  align-items: start;
  > .name { font: 13px/1.9 ${font.mono}; color: ${color.water}; overflow-wrap: anywhere; cursor: help; }
`;

const Actions = styled.span`
  display: inline-flex;
  gap: ${space.s};
`;

const Adder = styled.div`
  display: flex;
  gap: ${space.s};
  align-items: center;
  select, input { ${box} width: auto; }
  select { flex: 0 1 auto; min-width: 0; max-width: 100%; }
`;

export interface MapFormProps {
  readonly path: FilePath;
  readonly value: Readonly<Record<string, unknown>>;
  /** Whether it takes names of the user's own, such as those of operations. */
  readonly isOpen: boolean;
}

/** The entries of a map, each by its key, with what may be added. */
export function MapForm({ path, value, isOpen }: MapFormProps) {
  return (
    <Rows>
      {Object.entries(value).map(([key, own]) => (
        <Entry key={key} path={path} name={key} value={own} taken={Object.keys(value)} />
      ))}
      <AddEntry path={path} value={value} isOpen={isOpen} />
    </Rows>
  );
}

interface EntryProps {
  /** Of the map. */
  readonly path: FilePath;
  readonly name: string;
  readonly value: unknown;
  /** All names of the map. */
  readonly taken: readonly string[];
}

function Entry({ path, name, value, taken }: EntryProps) {
  const { schema, remove, Value } = useTextForm();
  const help = helpFor(schema, schemaPath(path), name);
  const own = [...path, name];
  const schemas = schemasAt(schema, schemaPath(path));
  const actions = isRequired(schemas, name) ? null : (
    <Actions>
      {isOwnName(schemas, name) && <RenameKey path={own} name={name} taken={taken} />}
      <Button data-kind="faint" onPress={() => remove(own)} aria-label={`Remove ${name}`}>
        remove
      </Button>
    </Actions>
  );
  if (isMap(value) || Array.isArray(value))
    return (
      <Foldable name={name} help={help} value={value} depth={path.length} action={actions}>
        <Value path={own} value={value} label={name} />
      </Foldable>
    );
  return (
    <Row>
      <span className="name" title={help}>
        {name}
      </span>
      <Value path={own} value={value} label={name} />
      {actions}
    </Row>
  );
}

function isRequired(schemas: readonly JsonSchema[], name: string): boolean {
  return schemas.some(({ required }) => Array.isArray(required) && required.includes(name));
}

/** Whether the user named it, as operations and places are. */
function isOwnName(schemas: readonly JsonSchema[], name: string): boolean {
  return !schemas.some(({ properties }) => isMap(properties) && Object.hasOwn(properties, name));
}

function AddEntry({ path, value, isOpen }: MapFormProps) {
  const { schema, put } = useTextForm();
  const [name, setName] = useState('');
  const nameInput = useRef<HTMLInputElement>(null);
  const at = schemaPath(path);
  const offers = missingKeys(schema, at, value);
  const add = (key: string): void => put([...path, key], startingValue(schema, schemasAt(schema, [...at, key])));
  const choose = (key: string): void => {
    if (offers.some(({ text, isPrefix }) => isPrefix && text === key)) {
      setName(key);
      nameInput.current?.focus();
    } else add(key);
  };
  return (
    <Adder>
      {offers.length > 0 && (
        <select aria-label="Add" value="" onChange={(event) => choose(event.target.value)}>
          <option value="">add ...</option>
          {offers.map(({ text, help }) => (
            <option key={text} value={text} title={help}>
              {text} {help === '' ? '' : `- ${help.slice(0, 90)}`}
            </option>
          ))}
        </select>
      )}
      {isOpen && (
        <>
          <input
            ref={nameInput}
            aria-label="Name of a new entry"
            placeholder="name"
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
          <Button
            isDisabled={name === '' || name.endsWith(' ') || Object.hasOwn(value, name)}
            onPress={() => {
              add(name);
              setName('');
            }}
          >
            Add
          </Button>
        </>
      )}
    </Adder>
  );
}
