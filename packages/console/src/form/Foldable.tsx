import { type ReactNode, useState } from 'react';
import styled from 'styled-components';
import { color, corner, font, space } from '../theme/tokens.js';
import { Faint } from '../ui/Panel.js';
import { isMap } from './form-shape.js';

const Box = styled.section`
  border: 1px solid ${color.hairline};
  border-radius: ${corner};
  background: ${color.panel};
  > header {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    align-items: center;
    padding: 2px ${space.s};
  }
  > header > button:first-child {
    all: unset;
    cursor: pointer;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    padding: 2px;
    &:focus-visible { outline: 2px solid ${color.water}; }
    strong { font: 700 13px/1.6 ${font.mono}; color: ${color.water}; }
  }
  > .inner { padding: ${space.xs} ${space.s} ${space.s} ${space.l}; border-top: 1px solid ${color.hairline}; }
`;

export interface FoldableProps {
  readonly name: string;
  readonly help: string;
  readonly value: unknown;
  /** How far in it stands: what is near the top of a file is long, and begins folded. */
  readonly depth: number;
  readonly action: ReactNode;
  readonly children: ReactNode;
}

const FOLDED_DEPTH = 4;

/** A part of a form that can be folded; folded, it says in a line what it holds. */
export function Foldable({ name, help, value, depth, action, children }: FoldableProps) {
  const [isOpen, setOpen] = useState(depth >= FOLDED_DEPTH);
  return (
    <Box aria-label={name}>
      <header>
        <button type="button" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)} title={help}>
          {isOpen ? '▾' : '▸'} <strong>{name}</strong> {!isOpen && <Faint>{summaryOf(value)}</Faint>}
        </button>
        <span>{action}</span>
      </header>
      {isOpen && <div className="inner">{children}</div>}
    </Box>
  );
}

/** What tells a map from others first; the rest by its keys. */
const TELLING = ['on', 'case', 'upset', 'check', 'at', 'status', 'key', 'of'];

function summaryOf(value: unknown): string {
  if (Array.isArray(value)) return `${value.length} ${value.length === 1 ? 'item' : 'items'}`;
  if (!isMap(value)) return String(value ?? '');
  const told = TELLING.map((key) => value[key]).find((own) => typeof own === 'string' || typeof own === 'number');
  return told === undefined ? Object.keys(value).join(', ') : String(told);
}
