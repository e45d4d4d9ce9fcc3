import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import type { ServiceView, TrialSummary } from '@upsetter/core/wire';
import { useState } from 'react';
import styled from 'styled-components';
import { client } from '../api/client.js';
import { describeError } from '../api/describe-error.js';
import { space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { Field } from '../ui/Field.js';
import { Faint, Panel, Trouble } from '../ui/Panel.js';
import { TickBox } from '../ui/TickBox.js';

const Line = styled.form`
  display: grid;
  grid-template-columns: minmax(0, 320px) 140px auto;
  justify-content: start;
  gap: ${space.s} ${space.m};
  align-items: end;
`;

const Ticks = styled.div`
  grid-column: 1 / -1;
  display: flex;
  flex-wrap: wrap;
  gap: ${space.xs} ${space.xl};
`;

interface TrialFormProps {
  readonly service: ServiceView;
  /** What was tried last is offered again. */
  readonly latest: TrialSummary | undefined;
}

/** Begins a trial, and leads to it. */
export function TrialForm({ service, latest }: TrialFormProps) {
  const [against, setAgainst] = useState(latest?.against ?? upstreamOf(service.file));
  const [environment, setEnvironment] = useState(latest?.environment ?? 'default');
  const [writes, setWrites] = useState(false);
  const [hostile, setHostile] = useState(false);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const start = useMutation({
    mutationFn: () => client.startTrial(service.name, { against, environment, writes, hostile }),
    onSuccess: async ({ id }) => {
      await queries.invalidateQueries({ queryKey: ['trials', service.name] });
      await navigate({
        to: '/services/$name',
        params: { name: service.name },
        search: { view: 'trials', trial: id },
      });
    },
  });
  return (
    <Panel>
      <h2>Try it against the real implementation</h2>
      <Line
        onSubmit={(event) => {
          event.preventDefault();
          start.mutate();
        }}
      >
        <Field label="real implementation" value={against} onChange={setAgainst} placeholder="http://127.0.0.1:4691" />
        <Field label="environment" value={environment} onChange={setEnvironment} placeholder="staging" />
        <Button type="submit" data-kind="main" isDisabled={against === '' || start.isPending}>
          Try it
        </Button>
        <Ticks>
          <TickBox isSelected={writes} onChange={setWrites}>
            send calls that change things <Faint>(POST, PUT, DELETE ...)</Faint>
          </TickBox>
          <TickBox isSelected={hostile} onChange={setHostile}>
            send calls that must be refused
          </TickBox>
        </Ticks>
      </Line>
      {start.error !== null && <Trouble>{describeError(start.error)}</Trouble>}
    </Panel>
  );
}

function upstreamOf(file: string): string {
  return /^upstream:\s*["']?([^\s"'#]+)/m.exec(file)?.[1] ?? '';
}
