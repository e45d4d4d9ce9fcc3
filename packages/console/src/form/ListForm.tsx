import styled from 'styled-components';
import { schemasAt } from '../editor/schema/schema-at.js';
import { space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import type { FilePath } from './change-text.js';
import { Foldable } from './Foldable.js';
import { startingValue } from './form-shape.js';
import { schemaPath, useTextForm } from './useTextForm.js';

const Items = styled.div`
  display: flex;
  flex-direction: column;
  gap: ${space.xs};
`;

export interface ListFormProps {
  readonly path: FilePath;
  readonly value: readonly unknown[];
  readonly label: string;
}

/** The items of a list, in their order, which can be changed. */
export function ListForm({ path, value, label }: ListFormProps) {
  const { schema, put, remove, move, Value } = useTextForm();
  const start = startingValue(schema, schemasAt(schema, [...schemaPath(path), null]));
  return (
    <Items>
      {value.map((item, i) => {
        const own = [...path, i];
        const name = String(i + 1);
        return (
          <Foldable
            // biome-ignore lint/suspicious/noArrayIndexKey: items of a file have no names of their own; what is typed is kept by its value
            key={i}
            name={name}
            help={`${label}, item ${name}`}
            value={item}
            depth={path.length}
            action={
              <>
                <Button
                  data-kind="faint"
                  isDisabled={i === 0}
                  onPress={() => move(own, -1)}
                  aria-label={`Move item ${name} up`}
                >
                  up
                </Button>
                <Button
                  data-kind="faint"
                  isDisabled={i === value.length - 1}
                  onPress={() => move(own, 1)}
                  aria-label={`Move item ${name} down`}
                >
                  down
                </Button>
                <Button data-kind="faint" onPress={() => remove(own)} aria-label={`Remove item ${name}`}>
                  remove
                </Button>
              </>
            }
          >
            <Value path={own} value={item} label={`${label} ${name}`} />
          </Foldable>
        );
      })}
      <div>
        <Button onPress={() => put([...path, value.length], start)} aria-label={`Add an item to ${label}`}>
          Add an item
        </Button>
      </div>
    </Items>
  );
}
