import styled from 'styled-components';
import type { Mistake } from '../api/describe-error.js';
import { color, space } from '../theme/tokens.js';
import { Trouble } from '../ui/Panel.js';

const List = styled.ul`
  margin: ${space.xs} 0 0;
  padding-left: ${space.l};
  li { color: ${color.ink}; overflow-wrap: anywhere; }
  code { color: ${color.faint}; }
`;

export interface MistakesProps {
  readonly title: string;
  readonly mistakes: readonly Mistake[];
  /** Whether the lines are those of the text beside this list. */
  readonly showLines: boolean;
}

/** What was refused and why, each mistake with its place. */
export function Mistakes({ title, mistakes, showLines }: MistakesProps) {
  return (
    <div>
      <Trouble>{title}</Trouble>
      <List>
        {mistakes.map((mistake) => (
          <li key={`${mistake.line}:${mistake.column}:${mistake.message}`}>
            {showLines && `line ${mistake.line}, column ${mistake.column}: `}
            {mistake.message} {mistake.path !== '' && <code>{mistake.path}</code>}
          </li>
        ))}
      </List>
    </div>
  );
}
