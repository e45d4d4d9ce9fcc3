import type { TakeSummary } from '@upsetter/core/wire';
import styled from 'styled-components';
import { color, space } from '../theme/tokens.js';
import { Faint } from '../ui/Panel.js';

const List = styled.ul`
  list-style: none;
  margin: ${space.xs} 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 2px ${space.l};
  .refused { color: ${color.vermilion}; }
`;

/** What a proxy did with each host, and what applications need to trust for https. */
export function ProxyHosts({ take }: { readonly take: TakeSummary }) {
  return (
    <>
      {take.state === 'open' && (
        <Faint>
          For https the application has to trust{' '}
          <a href="/api/authority.pem">the certificate of Upsetter's authority</a>.
        </Faint>
      )}
      {take.hosts.length > 0 && (
        <List aria-label="Hosts">
          {take.hosts.map(({ host, heard, untouched, refused, trouble }) => (
            <li key={host}>
              <code>{host}</code>
              {heard > 0 && ` ${heard} heard`}
              {untouched > 0 && <Faint> {untouched} passed untouched</Faint>}
              {refused > 0 && (
                <span className="refused">
                  {' '}
                  {refused} not let through: {trouble}
                </span>
              )}
            </li>
          ))}
        </List>
      )}
    </>
  );
}
