import { useState } from 'react';

/** A text as the service has it, and the revision it was read at. */
export interface SavedText {
  readonly text: string;
  readonly revision: number;
}

export interface EditedText {
  /** What stands in the editor. */
  readonly text: string;
  readonly setText: (text: string) => void;
  /** What the edit began with: the editor's text until it is read again. */
  readonly basedOn: SavedText;
  readonly isChanged: boolean;
  /** Somebody else has saved another text since. */
  readonly isStale: boolean;
  /** Takes what the service has now; the edit is given up. */
  readonly readAgain: () => void;
  /** The edit was saved as this revision. */
  readonly markSaved: (revision: number) => void;
}

/** A text that is being edited while others may save it: what was typed is never replaced unasked, and a save knows what it is based on. */
export function useEditedText(saved: SavedText): EditedText {
  const [basedOn, setBasedOn] = useState(saved);
  const [text, setText] = useState(saved.text);
  const isSameText = saved.text === basedOn.text;
  const isNewer = saved.revision > basedOn.revision;
  // After a save the service may write the text a little otherwise (a line end, an indent): that is ours still.
  if (saved.revision === basedOn.revision && !isSameText && text === basedOn.text) {
    setBasedOn(saved);
    setText(saved.text);
  }
  return {
    text,
    setText,
    // A later revision that left this text alone is as good a base.
    basedOn: isSameText && isNewer ? saved : basedOn,
    isChanged: text !== basedOn.text,
    isStale: isNewer && !isSameText,
    readAgain: () => {
      setBasedOn(saved);
      setText(saved.text);
    },
    markSaved: (revision) => setBasedOn({ text, revision }),
  };
}
