import { useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import type { TakeSummary } from '@upsetter/core/wire';
import styled from 'styled-components';
import { describeError } from '../api/describe-error.js';
import { takesQuery } from '../api/queries.js';
import { color, space } from '../theme/tokens.js';
import { CopyButton } from '../ui/CopyButton.js';
import { Empty, Faint, Trouble } from '../ui/Panel.js';
import { HearForm } from './HearForm.js';

const Table = styled.table`
  width: 100%;
  border-collapse: collapse;
  margin: ${space.m} 0 ${space.l};
  th { text-align: left; font-weight: 400; font-size: 13px; color: ${color.faint}; padding: ${space.xs} ${space.l} ${space.xs} 0; }
  td { padding: ${space.s} ${space.l} ${space.s} 0; border-top: 1px solid ${color.hairline}; vertical-align: top; }
  .number, th.number { text-align: right; }
  .name { font-weight: 700; }
  .open { color: ${color.water}; font-weight: 700; }
`;

/** All takes, newest first; and what begins one. */
export function TakesPage() {
  const { data: takes, error } = useQuery(takesQuery);
  return (
    <>
      <h1>Takes</h1>
      {error !== null && <Trouble>{describeError(error)}</Trouble>}
      {takes?.length === 0 && (
        <Empty>
          No takes yet. Name the real service below: a port opens that passes everything through and hears both sides.
          Point the application at it and use it; then draft a service from what was heard. A proxy hears applications
          whose addresses cannot change.
        </Empty>
      )}
      {takes !== undefined && takes.length > 0 && <List takes={takes} />}
      <HearForm />
    </>
  );
}

function List({ takes }: { readonly takes: readonly TakeSummary[] }) {
  return (
    <Table>
      <thead>
        <tr>
          <th>take</th>
          <th>state</th>
          <th className="number">exchanges</th>
          <th>heard from</th>
          <th>since</th>
        </tr>
      </thead>
      <tbody>
        {takes.map((take) => (
          <Row key={take.name} take={take} />
        ))}
      </tbody>
    </Table>
  );
}

function Row({ take }: { readonly take: TakeSummary }) {
  const { name, address } = take;
  return (
    <tr>
      <td>
        <Link className="name" to="/takes/$name" params={{ name }}>
          {name}
        </Link>
      </td>
      <td>
        <span className={take.state}>{take.state === 'open' ? '● open' : 'closed'}</span>
      </td>
      <td className="number">{take.exchanges}</td>
      <td>
        {take.upstream === null ? 'a proxy' : <code>{take.upstream}</code>}
        {address !== null && (
          <div>
            <Faint>{take.upstream === null ? 'http_proxy, https_proxy ' : 'heard at '}</Faint>
            <code>{address}</code>
            <CopyButton text={address} what={`the address of ${name}`} />
          </div>
        )}
      </td>
      <td>
        <Faint>{take.startedAt.slice(0, 16).replace('T', ' ')}</Faint>
      </td>
    </tr>
  );
}
