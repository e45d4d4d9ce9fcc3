import type { DraftView } from '@upsetter/core/wire';
import styled from 'styled-components';
import { color, space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { Faint, Panel } from '../ui/Panel.js';

type Decision = DraftView['decisions'][number];

const List = styled.ol`
  list-style: none;
  margin: 0;
  padding: 0;
  li { padding: ${space.s} 0; border-top: 1px solid ${color.hairline}; }
  li:first-child { border-top: none; padding-top: 0; }
  .line { display: flex; gap: ${space.s}; align-items: baseline; justify-content: space-between; }
  .of { font-weight: 700; }
  .evidence { font-size: 14px; overflow-wrap: anywhere; }
  .overruled { color: ${color.brass}; }
`;

export interface DecisionsProps {
  readonly decisions: readonly Decision[];
  readonly overrules: Readonly<Record<string, string>>;
  /** Null takes an overrule back. */
  readonly onOverrule: (id: string, value: string | null) => void;
}

/** What the draft concluded, from what, and how sure it is; what can be overruled has a button. */
export function Decisions({ decisions, overrules, onOverrule }: DecisionsProps) {
  const given = Object.entries(overrules);
  return (
    <Panel aria-label="Decisions">
      <h2>Decisions</h2>
      <List>
        {given.map(([id, value]) => (
          <li key={id}>
            <span className="line">
              <span className="overruled">
                you said: {id} is {value}
              </span>
              <Button data-kind="quiet" onPress={() => onOverrule(id, null)}>
                take back
              </Button>
            </span>
          </li>
        ))}
        {decisions.map((decision) => (
          <Row key={`${decision.of} ${decision.concluded}`} decision={decision} onOverrule={onOverrule} />
        ))}
      </List>
    </Panel>
  );
}

function Row({
  decision,
  onOverrule,
}: {
  readonly decision: Decision;
  readonly onOverrule: DecisionsProps['onOverrule'];
}) {
  const { id, of, concluded, evidence, confidence } = decision;
  const other = id === undefined ? null : otherWay(id);
  return (
    <li>
      <span className="line">
        <span>
          {of !== 'draft' && <span className="of">{of} </span>}
          {concluded}
        </span>
        {id !== undefined && other !== null && (
          <Button data-kind="quiet" onPress={() => onOverrule(id, other.value)}>
            {other.word}
          </Button>
        )}
      </span>
      <Faint className="evidence">
        {evidence}
        {confidence !== undefined && `; sure to ${Math.round(confidence * 100)} %`}
      </Faint>
    </li>
  );
}

/** What overruling a decision would come to. */
function otherWay(id: string): { readonly value: string; readonly word: string } | null {
  if (id.startsWith('path:')) return { value: 'literal', word: 'no parameter' };
  if (id.startsWith('records:')) return { value: 'no', word: 'no rows' };
  if (id === 'callers') return { value: 'no', word: 'one for all' };
  return id.startsWith('operation:') ? { value: 'as-heard', word: 'as heard' } : null;
}
