import { TickBox } from './TickBox.js';

export interface CheckboxProps {
  readonly isSelected: boolean;
  readonly onChange: (isSelected: boolean) => void;
  /** Said to screen readers; nothing is shown beside the box. */
  readonly label: string;
}

/** A box that stands alone, in a row of a list. */
export function Checkbox({ isSelected, onChange, label }: CheckboxProps) {
  return <TickBox isSelected={isSelected} onChange={onChange} label={label} />;
}
