import styled from 'styled-components';
import type { EditedText } from '../editor/useEditedText.js';
import { space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { Faint } from '../ui/Panel.js';

const Actions = styled.div`
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: ${space.s};
`;

export interface SaveLineProps {
  readonly what: string;
  readonly edited: EditedText;
  readonly isPending: boolean;
  /** Whether the last save of this edit went through. */
  readonly isSaved: boolean;
  readonly onSave: () => void;
}

/** The save button of an editor, with what stands between the editor and the service. */
export function SaveLine({ what, edited, isPending, isSaved, onSave }: SaveLineProps) {
  return (
    <Actions>
      <Button data-kind="main" onPress={onSave} isDisabled={isPending || !edited.isChanged}>
        Save {what}
      </Button>
      {edited.isStale && <Button onPress={edited.readAgain}>Read theirs</Button>}
      <Faint role="status">{statusOf(edited, isSaved)}</Faint>
    </Actions>
  );
}

function statusOf({ isStale, isChanged, basedOn }: EditedText, isSaved: boolean): string {
  if (isStale) return 'somebody has saved a later revision';
  if (isChanged) return 'not saved yet';
  return isSaved ? `saved as revision ${basedOn.revision}: the next call gets it` : '';
}
