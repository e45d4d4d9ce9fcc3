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
  display: flex;
  gap: ${space.s};
  align-items: end;
  margin-top: ${space.l};
`;

/** What a new service begins with: one operation that answers, to be written on. */
function firstFile(name: string): string {
  return [
    'upsetter: 1',
    `service: ${name}`,
    'operations:',
    '  readFirst:',
    '    on: GET /first/{id}',
    '    cases:',
    '      - case: always',
    '        answer:',
    '          json: { id: "${call.path.id}" }',
    '',
  ].join('\n');
}

/** Makes a service of a given name and leads to its file. */
export function NewService() {
  const [name, setName] = useState('');
  const queries = useQueryClient();
  const navigate = useNavigate();
  const make = useMutation({
    mutationFn: () => client.saveService(name, firstFile(name), { note: 'begun in the console', basedOn: 0 }),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ['services'] });
      await navigate({ to: '/services/$name', params: { name }, search: { view: 'file' } });
    },
  });
  return (
    <>
      <Line
        onSubmit={(event) => {
          event.preventDefault();
          make.mutate();
        }}
      >
        <Field label="new service" value={name} onChange={setName} placeholder="pilot-desk" />
        <Button type="submit" isDisabled={name === '' || make.isPending}>
          Make it
        </Button>
      </Line>
      {make.error !== null && <Trouble>{describeError(make.error)}</Trouble>}
    </>
  );
}
