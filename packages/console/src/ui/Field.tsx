import { Input as AriaInput, TextField as AriaTextField, Label } from 'react-aria-components';
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

const Input = styled(AriaInput)`
  padding: ${space.xs} ${space.s};
  border: 1px solid ${color.hairline};
  border-radius: ${corner};
  background: ${color.panel};
  color: ${color.ink};
  font: 13px/1.5 ${font.mono};
  min-width: 0;
  width: 100%;
  &::placeholder { color: ${color.faint}; opacity: 0.8; }
`;

export interface FieldProps {
  readonly label: string;
  readonly value: string;
  readonly onChange: (value: string) => void;
  readonly placeholder?: string;
  readonly className?: string;
}

/** One line of text with its name above. */
export function Field({ label, value, onChange, placeholder, className }: FieldProps) {
  return (
    <Wrapped value={value} onChange={onChange} className={className ?? ''}>
      <Name>{label}</Name>
      <Input placeholder={placeholder ?? ''} spellCheck={false} autoComplete="off" />
    </Wrapped>
  );
}
