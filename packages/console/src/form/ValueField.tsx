import { useState } from 'react';
import { Input, TextArea, TextField } from 'react-aria-components';
import styled from 'styled-components';
import { schemasAt } from '../editor/schema/schema-at.js';
import { color } from '../theme/tokens.js';
import { Checkbox } from '../ui/Checkbox.js';
import { box } from './box.js';
import { readValue, writeValue } from './change-text.js';
import { shapeOf } from './form-shape.js';
import { ListForm } from './ListForm.js';
import { MapForm } from './MapForm.js';
import { schemaPath, useTextForm, type ValueProps } from './useTextForm.js';

const Line = styled(Input)`
  ${box}
`;
const Lines = styled(TextArea)`
  ${box}
  resize: vertical;
`;
const Choice = styled.select`
  ${box}
  width: max-content;
`;
const Reason = styled.span`
  color: ${color.vermilion};
  font-size: 13px;
`;

/** One value of the file, edited as what it is: a map, a list, a choice, a text, or YAML of its own. */
export function ValueField({ path, value, label }: ValueProps) {
  const { schema, put } = useTextForm();
  const shape = shapeOf(schemasAt(schema, schemaPath(path)), value);
  switch (shape.kind) {
    case 'map':
      return <MapForm path={path} value={value as Record<string, unknown>} isOpen={shape.isOpen} />;
    case 'list':
      return <ListForm path={path} value={value as readonly unknown[]} label={label} />;
    case 'flag':
      return <Checkbox isSelected={value === true} onChange={(next) => put(path, next)} label={label} />;
    case 'choice':
      return (
        <Choice aria-label={label} value={String(value)} onChange={(event) => put(path, typed(event.target.value))}>
          {[...new Set([String(value), ...shape.options])].map((option) => (
            <option key={option}>{option}</option>
          ))}
        </Choice>
      );
    default:
      return (
        <TypedField key={writeValue(value)} path={path} value={value} label={label} isYaml={shape.kind === 'yaml'} />
      );
  }
}

/** A text of a choice as the value it stands for. */
function typed(text: string): unknown {
  const read = readValue(text);
  return read.kind === 'value' ? read.value : text;
}

interface TypedFieldProps extends ValueProps {
  readonly isYaml: boolean;
}

/** What is typed takes effect when the field is left, or by Enter. A line stays the text or number that it was; the rest is YAML. */
function TypedField({ path, value, label, isYaml }: TypedFieldProps) {
  const { put } = useTextForm();
  const start = isYaml ? writeValue(value) : String(value);
  const [text, setText] = useState(start);
  const read = isYaml || typeof value !== 'string' ? readValue(text) : ({ kind: 'value', value: text } as const);
  const commit = (): void => {
    if (text !== start && read.kind === 'value') put(path, read.value);
  };
  const isBroken = read.kind === 'unreadable';
  return (
    <TextField aria-label={label} value={text} onChange={setText} isInvalid={isBroken}>
      {isYaml ? (
        <Lines rows={Math.min(16, Math.max(1, text.split('\n').length))} onBlur={commit} spellCheck={false} />
      ) : (
        <Line onBlur={commit} onKeyDown={(event) => event.key === 'Enter' && commit()} spellCheck={false} />
      )}
      {isBroken && <Reason role="alert">{read.reason}</Reason>}
    </TextField>
  );
}
