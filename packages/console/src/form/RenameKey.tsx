import { useState } from 'react';
import styled from 'styled-components';
import { Button } from '../ui/Button.js';
import { box } from './box.js';
import type { FilePath } from './change-text.js';
import { useTextForm } from './useTextForm.js';

const Input = styled.input`
  ${box}
  width: auto;
`;

export interface RenameKeyProps {
  readonly path: FilePath;
  readonly name: string;
  /** All keys of the map: the new one is none of them. */
  readonly taken: readonly string[];
}

/** Gives a name of the user's own, such as that of an operation, another text: Enter takes it, Escape leaves it. */
export function RenameKey({ path, name, taken }: RenameKeyProps) {
  const { rename } = useTextForm();
  const [draft, setDraft] = useState<string | null>(null);
  if (draft === null)
    return (
      <Button data-kind="faint" onPress={() => setDraft(name)} aria-label={`Rename ${name}`}>
        rename
      </Button>
    );
  const wanted = draft.trim();
  const isWrong = wanted === '' || (wanted !== name && taken.includes(wanted));
  const take = (): void => {
    if (isWrong) return;
    setDraft(null);
    if (wanted !== name) rename(path, wanted);
  };
  return (
    <Input
      aria-label={`New name of ${name}`}
      aria-invalid={isWrong}
      title={isWrong ? 'another entry has this name' : 'Enter takes the name, Escape leaves it'}
      autoFocus
      value={draft}
      onChange={(event) => setDraft(event.target.value)}
      onBlur={take}
      onKeyDown={(event) => {
        if (event.key === 'Enter') take();
        if (event.key === 'Escape') setDraft(null);
      }}
    />
  );
}
