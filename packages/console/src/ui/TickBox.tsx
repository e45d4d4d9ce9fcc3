import type { ReactNode } from 'react';
import { Checkbox as AriaCheckbox } from 'react-aria-components';
import styled from 'styled-components';
import { color, space } from '../theme/tokens.js';

const Styled = styled(AriaCheckbox)`
  display: flex;
  align-items: center;
  gap: ${space.s};
  cursor: pointer;
  .box {
    flex: none;
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

export interface TickBoxProps {
  readonly isSelected: boolean;
  readonly onChange: (isSelected: boolean) => void;
  /** Said to screen readers where no words stand beside the box. */
  readonly label?: string;
  readonly children?: ReactNode;
}

/** A choice, with its words beside the box. */
export function TickBox({ isSelected, onChange, label, children }: TickBoxProps) {
  return (
    <Styled isSelected={isSelected} onChange={onChange} {...(label === undefined ? {} : { 'aria-label': label })}>
      <span className="box" aria-hidden>
        {isSelected ? '✓' : ''}
      </span>
      {children !== undefined && <span>{children}</span>}
    </Styled>
  );
}
