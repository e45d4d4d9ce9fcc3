import { TextArea as AriaTextArea, TextField as AriaTextField, Label } from 'react-aria-components';
import styled from 'styled-components';
import { color, corner, font, space } from '../theme/tokens.js';

const Wrapped = styled(AriaTextField)`
  display: flex;
  flex-direction: column;
  gap: 2px;
  min-width: 0;
`;

const Name = styled(Label)`
  font-size: 13px;
  color: ${color.faint};
`;

const Box = styled(AriaTextArea)`
  padding: ${space.xs} ${space.s};
  border: 1px solid ${color.hairline};
  border-radius: ${corner};
  background: ${color.panel};
  color: ${color.ink};
  font: 13px/1.5 ${font.mono};
  width: 100%;
  box-sizing: border-box;
  resize: vertical;
  &::placeholder { color: ${color.faint}; opacity: 0.8; }
`;

export interface TextBoxProps {
  readonly label: string;
  readonly value: string;
  readonly onChange: (value: string) => void;
  readonly placeholder?: string;
  /** As many lines as the text has, between these. */
  readonly least?: number;
  readonly most?: number;
}

/** Several lines of text with their name above. */
export function TextBox({ label, value, onChange, placeholder, least = 1, most = 12 }: TextBoxProps) {
  const rows = Math.min(most, Math.max(least, value.split('\n').length));
  return (
    <Wrapped value={value} onChange={onChange}>
      <Name>{label}</Name>
      <Box rows={rows} placeholder={placeholder ?? ''} spellCheck={false} />
    </Wrapped>
  );
}
