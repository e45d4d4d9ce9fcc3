import type { LaneView } from '@upsetter/core/wire';
import styled from 'styled-components';
import { font, space } from '../theme/tokens.js';
import { formatCount } from '../ui/format.js';
import { Faint } from '../ui/Panel.js';

const Table = styled.table`
  align-self: start;
  border-collapse: collapse;
  font-size: 13px;
  td { padding: 1px ${space.m} 1px 0; vertical-align: top; }
  code { font: 12.5px ${font.mono}; overflow-wrap: anywhere; }
`;

/** What is another in a lane than at the start, service by service. */
export function LaneChanges({ services }: Pick<LaneView, 'services'>) {
  const rows = services.flatMap(({ service, state, rows: datasets, counters }) => [
    ...Object.entries(state).map(([name, value]) => [service, `state ${name}`, JSON.stringify(value)]),
    ...Object.entries(datasets).map(([name, count]) => [
      service,
      `dataset ${name}`,
      `${formatCount(count, 'row')} now`,
    ]),
    ...Object.entries(counters).map(([name, value]) => [service, `counter ${name}`, String(value)]),
  ]);
  if (rows.length === 0) return <Faint>As at the start.</Faint>;
  return (
    <Table>
      <tbody>
        {rows.map(([service, what, value]) => (
          <tr key={`${service} ${what}`}>
            <td>{service}</td>
            <td>{what}</td>
            <td>
              <code>{value}</code>
            </td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}
