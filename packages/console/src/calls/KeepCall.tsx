import { useMutation } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import styled from 'styled-components';
import { client } from '../api/client.js';
import { describeError } from '../api/describe-error.js';
import { space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { Trouble } from '../ui/Panel.js';

const Line = styled.div`
  display: flex;
  align-items: center;
  gap: ${space.m};
  margin-bottom: ${space.m};
`;

/** Keeps a relayed call in a take of its service, to be drafted from. */
export function KeepCall({ id }: { readonly id: string }) {
  const keep = useMutation({ mutationFn: () => client.keepCall(id) });
  return (
    <>
      <Line>
        <Button onPress={() => keep.mutate()} isDisabled={keep.isPending || keep.isSuccess}>
          Keep this one
        </Button>
        {keep.data !== undefined && (
          <span role="status">
            kept in the take{' '}
            <Link to="/takes/$name" params={{ name: keep.data.name }}>
              {keep.data.name}
            </Link>
          </span>
        )}
      </Line>
      {keep.error !== null && <Trouble>{describeError(keep.error)}</Trouble>}
    </>
  );
}
