import { useQuery } from '@tanstack/react-query';
import { getRouteApi, Link } from '@tanstack/react-router';
import { useState } from 'react';
import styled from 'styled-components';
import { describeError } from '../api/describe-error.js';
import { takeQuery } from '../api/queries.js';
import { color, space } from '../theme/tokens.js';
import { Empty, Faint, Trouble } from '../ui/Panel.js';
import { DraftView } from './DraftView.js';
import { Exchanges } from './Exchanges.js';
import { TakeHead } from './TakeHead.js';
import { useExchanges } from './useExchanges.js';

const route = getRouteApi('/takes/$name');

const Views = styled.nav`
  display: flex;
  gap: ${space.l};
  margin: ${space.m} 0;
  border-bottom: 1px solid ${color.hairline};
  a { padding-bottom: ${space.xs}; color: ${color.ink}; text-decoration: none; border-bottom: 2px solid transparent; }
  a[data-current] { border-bottom-color: ${color.water}; color: ${color.water}; font-weight: 700; }
`;

/** One take: what it heard, as it comes, each exchange to be kept or left out; and the draft that is made from it. */
export function TakePage() {
  const { name } = route.useParams();
  const { view } = route.useSearch();
  const { data: take, error } = useQuery(takeQuery(name));
  const { exchanges } = useExchanges(name, take);
  const [left, setLeft] = useState<ReadonlySet<number>>(new Set());
  if (error !== null) return <Trouble>{describeError(error)}</Trouble>;
  if (take === undefined) return <Faint>loading ...</Faint>;
  return (
    <>
      <TakeHead take={take} />
      <Views aria-label="Views">
        <Link to="/takes/$name" params={{ name }} search={{}} data-current={view === undefined ? true : undefined}>
          Heard
        </Link>
        <Link
          to="/takes/$name"
          params={{ name }}
          search={{ view: 'draft' }}
          data-current={view === 'draft' ? true : undefined}
        >
          Draft
        </Link>
      </Views>
      {exchanges.length === 0 ? (
        <Empty>
          Nothing was heard yet.{' '}
          {take.address !== null && (
            <>
              {take.upstream === null ? 'Set http_proxy and https_proxy of' : 'Point'} the application{' '}
              {take.upstream === null ? 'to' : 'at'} <code>{take.address}</code> and use it.
            </>
          )}
        </Empty>
      ) : view === 'draft' ? (
        <DraftView take={take} origins={[...new Set(exchanges.map(({ origin }) => origin))]} left={left} />
      ) : (
        <Exchanges take={take.name} exchanges={exchanges} left={left} onLeave={setLeft} />
      )}
    </>
  );
}
