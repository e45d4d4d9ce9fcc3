import { useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import type { ServiceSummary } from '@upsetter/core/wire';
import styled from 'styled-components';
import { describeError } from '../api/describe-error.js';
import { feedsQuery, servicesQuery } from '../api/queries.js';
import { color, space } from '../theme/tokens.js';
import { formatCount } from '../ui/format.js';
import { Empty, Faint, Panel, Trouble } from '../ui/Panel.js';
import { FeedForm } from './FeedForm.js';
import { FeedPanel } from './FeedPanel.js';

const Column = styled.div`
  display: flex;
  flex-direction: column;
  gap: ${space.l};
`;

const Table = styled.table`
  border-collapse: collapse;
  td { padding: ${space.xs} ${space.xl} ${space.xs} 0; }
  tr + tr { border-top: 1px solid ${color.hairline}; }
  .differs { color: ${color.brass}; }
  .holds { color: ${color.lichen}; }
`;

/** Contracts: which services keep to theirs, and the feeds that bring newer versions. */
export function ContractsPage() {
  const services = useQuery(servicesQuery);
  const feeds = useQuery(feedsQuery);
  const error = services.error ?? feeds.error;
  if (error !== null) return <Trouble>{describeError(error)}</Trouble>;
  return (
    <Column>
      <h1>Contracts</h1>
      <Kept services={services.data ?? []} />
      <FeedForm />
      {feeds.data?.map((feed) => (
        <FeedPanel key={feed.name} feed={feed} />
      ))}
      {feeds.data?.length === 0 && (
        <Empty>
          No feed yet. A feed fetches a contract again and again, and its service follows each newer version.
        </Empty>
      )}
    </Column>
  );
}

function Kept({ services }: { readonly services: readonly ServiceSummary[] }) {
  const following = services.filter(({ contractFindings }) => contractFindings !== null);
  if (following.length === 0) return null;
  return (
    <Panel>
      <h2>Services and their contracts</h2>
      <Table>
        <tbody>
          {following.map(({ name, version, contractFindings }) => (
            <tr key={name}>
              <td>
                <Link to="/services/$name" params={{ name }} search={{ view: 'contract' }}>
                  {name}
                </Link>{' '}
                {version !== null && <Faint>{version}</Faint>}
              </td>
              <td>
                {contractFindings === 0 ? (
                  <span className="holds">● as the contract says</span>
                ) : (
                  <span className="differs">◆ {formatCount(contractFindings ?? 0, 'finding')}</span>
                )}
              </td>
              <td>
                <Link to="/services/$name" params={{ name }} search={{ view: 'trials' }}>
                  trials
                </Link>
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
    </Panel>
  );
}
