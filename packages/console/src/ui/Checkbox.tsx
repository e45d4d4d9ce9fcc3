import { Checkbox as AriaCheckbox } from 'react-aria-components';
import styled from 'styled-components';
import { color } from '../theme/tokens.js';

const Styled = styled(AriaCheckbox)`
  display: flex;
  cursor: pointer;
  .box {
    width: 16px;
    height: 16px;
    border: 1px solid ${color.faint};
    border-radius: 3px;
    background: ${color.panel};
    display: grid;
    place-items: center;
    font-size: 12px;
    line-height: 1;
    color: ${color.onWater};
  }
  &[data-selected] .box { background: ${color.water}; border-color: ${color.water}; }
  &[data-focus-visible] .box { outline: 2px solid ${color.water}; outline-offset: 2px; }
`;

export interface CheckboxProps {
  readonly isSelected: boolean;
  readonly onChange: (isSelected: boolean) => void;
  /** Said to screen readers; nothing is shown beside the box. */
  readonly label: string;
}

export function Checkbox({ isSelected, onChange, label }: CheckboxProps) {
  return (
    <Styled isSelected={isSelected} onChange={onChange} aria-label={label}>
      <span className="box" aria-hidden>
        {isSelected ? '✓' : ''}
      </span>
    </Styled>
  );
}
