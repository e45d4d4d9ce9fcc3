import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import { useState } from 'react';
import styled from 'styled-components';
import { client } from '../api/client.js';
import { describeError } from '../api/describe-error.js';
import { space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { Choice } from '../ui/Choice.js';
import { Field } from '../ui/Field.js';
import { Trouble } from '../ui/Panel.js';

const Line = styled.form`
  display: grid;
  grid-template-columns: 160px max-content minmax(0, 300px) minmax(0, 200px) auto;
  justify-content: start;
  gap: ${space.s};
  align-items: end;
`;

type Way = 'relay' | 'proxy';

/** Begins a take: a relay to a real service, or a proxy for whatever passes. Leads to its page. */
export function HearForm() {
  const [name, setName] = useState('');
  const [way, setWay] = useState<Way>('relay');
  const [from, setFrom] = useState('');
  const [hosts, setHosts] = useState('');
  const [masks, setMasks] = useState('');
  const queries = useQueryClient();
  const navigate = useNavigate();
  const start = useMutation({
    mutationFn: () =>
      client.startTake({
        name,
        masks: wordsOf(masks),
        ...(way === 'relay' ? { from } : { proxy: { hosts: wordsOf(hosts) } }),
      }),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ['takes'] });
      await navigate({ to: '/takes/$name', params: { name }, search: {} });
    },
  });
  return (
    <>
      <Line
        onSubmit={(event) => {
          event.preventDefault();
          start.mutate();
        }}
      >
        <Field label="new take" value={name} onChange={setName} placeholder="booking" />
        <Choice label="heard through a" value={way} options={['relay', 'proxy']} onChange={setWay} />
        {way === 'relay' ? (
          <Field label="real service" value={from} onChange={setFrom} placeholder="http://127.0.0.1:4691" />
        ) : (
          <Field label="hosts to hear (empty: all)" value={hosts} onChange={setHosts} placeholder="*.harbour.test" />
        )}
        <Field label="mask also (names)" value={masks} onChange={setMasks} placeholder="x-harbour-pass" />
        <Button
          type="submit"
          data-kind="main"
          isDisabled={name === '' || (way === 'relay' && from === '') || start.isPending}
        >
          Hear it
        </Button>
      </Line>
      {start.error !== null && <Trouble>{describeError(start.error)}</Trouble>}
    </>
  );
}

function wordsOf(text: string): string[] {
  return text.split(/[\s,]+/).filter((word) => word !== '');
}
