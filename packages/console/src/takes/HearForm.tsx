import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import { useState } from 'react';
import styled from 'styled-components';
import { client } from '../api/client.js';
import { describeError } from '../api/describe-error.js';
import { space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { Field } from '../ui/Field.js';
import { Trouble } from '../ui/Panel.js';

const Line = styled.form`
  display: grid;
  grid-template-columns: 180px minmax(0, 320px) minmax(0, 240px) auto;
  justify-content: start;
  gap: ${space.s};
  align-items: end;
`;

/** Begins a take: a relay to a real service. Leads to its page. */
export function HearForm() {
  const [name, setName] = useState('');
  const [from, setFrom] = useState('');
  const [masks, setMasks] = useState('');
  const queries = useQueryClient();
  const navigate = useNavigate();
  const start = useMutation({
    mutationFn: () => client.startTake({ name, from, masks: masks.split(/[\s,]+/).filter((word) => word !== '') }),
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
        <Field label="real service" value={from} onChange={setFrom} placeholder="http://127.0.0.1:4691" />
        <Field label="mask also (names)" value={masks} onChange={setMasks} placeholder="x-harbour-pass" />
        <Button type="submit" data-kind="main" isDisabled={name === '' || from === '' || start.isPending}>
          Hear it
        </Button>
      </Line>
      {start.error !== null && <Trouble>{describeError(start.error)}</Trouble>}
    </>
  );
}
