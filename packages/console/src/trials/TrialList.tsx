import { Link } from '@tanstack/react-router';
import type { TrialSummary } from '@upsetter/core/wire';
import styled from 'styled-components';
import { color, space } from '../theme/tokens.js';
import { formatMoment } from '../ui/format.js';
import { Faint, Panel } from '../ui/Panel.js';

const Table = styled.table`
  border-collapse: collapse;
  font-variant-numeric: tabular-nums;
  th { text-align: left; font-weight: 400; color: ${color.faint}; font-size: 13px; }
  td, th { padding: ${space.xs} ${space.l} ${space.xs} 0; vertical-align: top; }
  tbody tr { border-top: 1px solid ${color.hairline}; }
  .began { color: ${color.vermilion}; }
  .ended { color: ${color.lichen}; }
`;

/** The trials of one service by environment, newest first: what changed from one to the next. */
export function TrialList({ service, trials }: { readonly service: string; readonly trials: readonly TrialSummary[] }) {
  const environments = [...new Set(trials.map(({ environment }) => environment))];
  return (
    <>
      {environments.map((environment) => (
        <Panel key={environment}>
          <h2>{environment}</h2>
          <Table>
            <thead>
              <tr>
                <th>begun</th>
                <th>against</th>
                <th>since the one before</th>
                <th>differ</th>
                <th>hold</th>
                <th>not tried</th>
              </tr>
            </thead>
            <tbody>
              {trials
                .filter((trial) => trial.environment === environment)
                .map((trial) => (
                  <tr key={trial.id}>
                    <td>
                      <Link
                        to="/services/$name"
                        params={{ name: service }}
                        search={{ view: 'trials', trial: trial.id }}
                      >
                        {formatMoment(trial.startedAt)}
                      </Link>
                    </td>
                    <td>
                      <code>{trial.against}</code>
                    </td>
                    <td>
                      <Since trial={trial} />
                    </td>
                    <td>{trial.counts.differs}</td>
                    <td>{trial.counts.holds + trial.counts.accepted}</td>
                    <td>{trial.counts.notTried}</td>
                  </tr>
                ))}
            </tbody>
          </Table>
        </Panel>
      ))}
    </>
  );
}

function Since({ trial: { state, changes } }: { readonly trial: TrialSummary }) {
  if (state !== 'done') return <Faint>{state}</Faint>;
  if (changes === null) return <Faint>the first one</Faint>;
  const { began, changed, ended } = changes;
  if (began + changed + ended === 0) return <Faint>nothing changed</Faint>;
  return (
    <>
      {began > 0 && <span className="began">✕ {began} more </span>}
      {changed > 0 && <span className="began">✕ {changed} otherwise </span>}
      {ended > 0 && <span className="ended">● {ended} no more</span>}
    </>
  );
}
