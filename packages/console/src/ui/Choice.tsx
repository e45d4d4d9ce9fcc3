import { Label, Radio, RadioGroup } from 'react-aria-components';
import styled from 'styled-components';
import { color, corner, space } from '../theme/tokens.js';

const Styled = styled(RadioGroup)`
  display: flex;
  flex-direction: column;
  gap: 2px;
  .name { font-size: 13px; color: ${color.faint}; }
  .options { display: flex; border: 1px solid ${color.hairline}; border-radius: ${corner}; overflow: hidden; width: max-content; }
`;

const Option = styled(Radio)`
  padding: ${space.xs} ${space.m};
  cursor: pointer;
  background: ${color.panel};
  & + & { border-left: 1px solid ${color.hairline}; }
  &[data-selected] { background: ${color.water}; color: ${color.onWater}; }
  &[data-focus-visible] { outline: 2px solid ${color.water}; outline-offset: -4px; }
`;

export interface ChoiceProps<T extends string> {
  /** What stands above; empty: nothing, and `said` names it to screen readers. */
  readonly label: string;
  readonly said?: string;
  readonly value: T;
  readonly options: readonly T[];
  readonly onChange: (value: T) => void;
}

/** One of a few words. */
export function Choice<T extends string>({ label, said, value, options, onChange }: ChoiceProps<T>) {
  return (
    <Styled
      value={value}
      onChange={(next) => onChange(next as T)}
      orientation="horizontal"
      {...(said === undefined ? {} : { 'aria-label': said })}
    >
      {label !== '' && <Label className="name">{label}</Label>}
      <div className="options">
        {options.map((option) => (
          <Option key={option} value={option}>
            {option}
          </Option>
        ))}
      </div>
    </Styled>
  );
}
