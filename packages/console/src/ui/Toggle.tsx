import type { ReactNode } from 'react';
import { Switch } from 'react-aria-components';
import styled from 'styled-components';
import { color, space } from '../theme/tokens.js';

const Styled = styled(Switch)`
  display: flex;
  align-items: center;
  gap: ${space.s};
  cursor: pointer;
  min-width: 0;
  .track {
    flex: none;
    width: 34px;
    height: 18px;
    border-radius: 9px;
    border: 1px solid ${color.faint};
    background: ${color.sunken};
    position: relative;
    transition: background 120ms;
  }
  .track::after {
    content: '';
    position: absolute;
    top: 2px;
    left: 2px;
    width: 12px;
    height: 12px;
    border-radius: 6px;
    background: ${color.faint};
    transition: transform 120ms;
  }
  &[data-selected] .track { background: ${color.plum}; border-color: ${color.plum}; }
  &[data-selected] .track::after { transform: translateX(16px); background: ${color.panel}; }
  &[data-focus-visible] .track { outline: 2px solid ${color.water}; outline-offset: 2px; }
`;

export interface ToggleProps {
  readonly isOn: boolean;
  readonly onChange: (isOn: boolean) => void;
  readonly children: ReactNode;
}

/** A switch for what is in force: plum when on. */
export function Toggle({ isOn, onChange, children }: ToggleProps) {
  return (
    <Styled isSelected={isOn} onChange={onChange}>
      <span className="track" aria-hidden />
      {children}
    </Styled>
  );
}
