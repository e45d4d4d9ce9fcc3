import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import type { TakeSummary } from '@upsetter/core/wire';
import styled from 'styled-components';
import { client } from '../api/client.js';
import { describeError } from '../api/describe-error.js';
import { color, space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { CopyButton } from '../ui/CopyButton.js';
import { formatCount } from '../ui/format.js';
import { Faint, Trouble } from '../ui/Panel.js';
import { ProxyHosts } from './ProxyHosts.js';

const Head = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: ${space.xs} ${space.l};
  h1 { margin: 0; }
  .open { color: ${color.water}; font-weight: 700; }
  .actions { margin-left: auto; display: flex; gap: ${space.s}; }
`;

/** What a take is, where it hears, what was masked; and what ends it. */
export function TakeHead({ take }: { readonly take: TakeSummary }) {
  const { name, address } = take;
  const queries = useQueryClient();
  const navigate = useNavigate();
  const refresh = () => queries.invalidateQueries({ queryKey: ['takes'] });
  const stop = useMutation({ mutationFn: () => client.stopTake(name), onSuccess: refresh });
  const remove = useMutation({
    mutationFn: () => client.removeTake(name),
    onSuccess: async () => {
      await navigate({ to: '/takes' });
      await refresh();
    },
  });
  const error = stop.error ?? remove.error;
  return (
    <>
      <Head>
        <h1>{name}</h1>
        <span className={take.state}>{take.state === 'open' ? '● open' : 'closed'}</span>
        <span>
          {formatCount(take.exchanges, 'exchange')}{' '}
          {take.upstream === null ? (
            'through a proxy'
          ) : (
            <>
              with <code>{take.upstream}</code>
            </>
          )}
        </span>
        {address !== null && (
          <span>
            <Faint>{take.upstream === null ? 'http_proxy, https_proxy ' : 'heard at '}</Faint>
            <code>{address}</code>
            <CopyButton text={address} what={`the address of ${name}`} />
          </span>
        )}
        <span className="actions">
          {take.state === 'open' ? (
            <Button data-kind="main" onPress={() => stop.mutate()} isDisabled={stop.isPending}>
              Stop
            </Button>
          ) : (
            <Button onPress={() => remove.mutate()} isDisabled={remove.isPending}>
              Remove
            </Button>
          )}
        </span>
      </Head>
      {take.source === 'proxy' && <ProxyHosts take={take} />}
      {take.masked.length > 0 && (
        <Faint>masked: {take.masked.map(({ place, count }) => `${place} (${count})`).join(', ')}</Faint>
      )}
      {take.trouble !== null && <Trouble>{take.trouble}</Trouble>}
      {error !== null && <Trouble>{describeError(error)}</Trouble>}
    </>
  );
}
