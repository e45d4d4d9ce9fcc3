import { Button, Label, ListBox, ListBoxItem, Popover, Select, SelectValue } from 'react-aria-components';
import styled from 'styled-components';
import { color, corner, space } from '../theme/tokens.js';

const Styled = styled(Select)`
  display: flex;
  flex-direction: column;
  gap: 2px;
  min-width: 0;
  .name { font-size: 13px; color: ${color.faint}; }
`;

const Opener = styled(Button)`
  display: flex;
  gap: ${space.s};
  justify-content: space-between;
  padding: ${space.xs} ${space.s};
  font: inherit;
  text-align: left;
  color: ${color.ink};
  background: ${color.panel};
  border: 1px solid ${color.hairline};
  border-radius: ${corner};
  cursor: pointer;
  &[data-focus-visible] { outline: 2px solid ${color.water}; outline-offset: -1px; }
`;

const Options = styled(ListBox)`
  background: ${color.panel};
  border: 1px solid ${color.hairline};
  border-radius: ${corner};
  max-height: 300px;
  overflow: auto;
  outline: none;
`;

const Option = styled(ListBoxItem)`
  padding: ${space.xs} ${space.m};
  cursor: pointer;
  outline: none;
  &[data-focused] { background: ${color.sunken}; }
  &[data-selected] { color: ${color.water}; font-weight: 700; }
`;

export interface PickProps {
  readonly label: string;
  readonly value: string;
  /** From value to what is shown. */
  readonly options: ReadonlyMap<string, string>;
  readonly onChange: (value: string) => void;
}

/** One of a list that may be long. */
export function Pick({ label, value, options, onChange }: PickProps) {
  return (
    <Styled value={value} onChange={(key) => onChange(String(key))}>
      <Label className="name">{label}</Label>
      <Opener>
        <SelectValue />
        <span aria-hidden>▾</span>
      </Opener>
      <Popover>
        <Options>
          {[...options].map(([key, shown]) => (
            <Option key={key} id={key} textValue={shown}>
              {shown}
            </Option>
          ))}
        </Options>
      </Popover>
    </Styled>
  );
}
