import type { TryResult } from '@upsetter/core/wire';
import styled from 'styled-components';
import { color, corner, space } from '../theme/tokens.js';
import { Address } from '../ui/Method.js';
import { Faint } from '../ui/Panel.js';

type Explanation = NonNullable<TryResult['why']>;
type Operation = Explanation['ladder'][number];
type Condition = Operation['address'][number];

const Box = styled.section`
  container-type: inline-size;
  display: flex;
  flex-direction: column;
  gap: ${space.s};
  h3 { font-size: 15px; font-weight: 400; display: flex; gap: ${space.m}; flex-wrap: wrap; }
`;

const Rungs = styled.ol`
  list-style: none;
  margin: 0;
  padding: 0;
  border: 1px solid ${color.hairline};
  border-radius: ${corner};
  background: ${color.panel};
  > li { padding: ${space.s} ${space.m}; border-left: 3px solid ${color.hairline}; }
  > li + li { border-top: 1px solid ${color.hairline}; }
  > li[data-outcome='answered'] { border-left-color: ${color.lichen}; }
  > li[data-outcome='failed'] { border-left-color: ${color.vermilion}; }
  > li[data-outcome='would answer'] { border-left-color: ${color.brass}; }
  .would { color: ${color.brass}; font-weight: 700; }
  .answered { color: ${color.lichen}; font-weight: 700; }
  .failed { color: ${color.vermilion}; }
  .logged { font-size: 13px; overflow-wrap: anywhere; }
`;

const Conditions = styled.table`
  border-collapse: collapse;
  margin-top: ${space.xs};
  font-size: 13px;
  td { padding: 1px ${space.m} 1px 0; vertical-align: top; overflow-wrap: break-word; }
  @container (max-width: 480px) {
    tr { display: flex; flex-wrap: wrap; }
    td { min-width: 0; }
  }
  .held { color: ${color.lichen}; white-space: nowrap; }
  .failed { color: ${color.vermilion}; white-space: nowrap; }
  .unreached { color: ${color.faint}; white-space: nowrap; }
  .note { color: ${color.brass}; }
`;

/** Why, as a ladder: each case in order, each condition held or failed, what was wanted beside what was found. */
export function WhyLadder({ why }: { readonly why: Explanation }) {
  return (
    <Box aria-label="Why">
      <p>{why.summary}</p>
      {(why.notes ?? []).map((note, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: lines of one call, which stay
        <p key={i} className="logged">
          log: {note}
        </p>
      ))}
      {why.ladder.map((operation) => (
        <OperationLadder key={operation.operation} operation={operation} />
      ))}
    </Box>
  );
}

function OperationLadder({ operation }: { readonly operation: Operation }) {
  return (
    <div>
      <h3>
        <strong>{operation.operation}</strong> <Address on={operation.on} />
      </h3>
      <Rungs>
        {!operation.reached && (
          <li data-outcome="failed">
            <span className="failed">✕ the call does not lead here</span>
            <ConditionTable conditions={operation.address} wasReached />
          </li>
        )}
        {operation.cases.map((item) => (
          <li key={item.case} data-outcome={item.outcome}>
            <strong>{item.case}</strong> <Word outcome={item.outcome} />
            {item.conditions.length === 0 ? (
              <Faint> no conditions</Faint>
            ) : (
              <ConditionTable conditions={item.conditions} wasReached={item.outcome !== 'not reached'} />
            )}
          </li>
        ))}
      </Rungs>
    </div>
  );
}

function Word({ outcome }: { readonly outcome: Operation['cases'][number]['outcome'] }) {
  if (outcome === 'answered') return <span className="answered">● answered</span>;
  if (outcome === 'would answer') return <span className="would">◐ would answer</span>;
  if (outcome === 'failed') return <span className="failed">✕ did not hold</span>;
  return <Faint>○ not reached</Faint>;
}

/** How far in the lines of a group stand. */
const INDENT_PX = 16;

/** Conditions of a case that was not reached say what they would have done, faintly. */
function ConditionTable({
  conditions,
  wasReached,
}: {
  readonly conditions: readonly Condition[];
  readonly wasReached: boolean;
}) {
  const words = wasReached ? { held: '● held', failed: '✕ failed' } : { held: '○ would hold', failed: '○ would fail' };
  return (
    <Conditions>
      <tbody>
        {conditions.map(({ place, wanted, found, held, note, depth = 0 }, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: the lines of one call never change
          <tr key={i}>
            <td className={!wasReached ? 'unreached' : held ? 'held' : 'failed'}>{held ? words.held : words.failed}</td>
            <td style={{ paddingLeft: depth * INDENT_PX }}>{place}</td>
            <td>
              wanted <code>{wanted}</code>
            </td>
            <td>
              found <code>{found}</code> {note !== undefined && <span className="note">{note}</span>}
            </td>
          </tr>
        ))}
      </tbody>
    </Conditions>
  );
}
