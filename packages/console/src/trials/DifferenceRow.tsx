import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { ServiceView, TrialDetail, TriedStep } from '@upsetter/core/wire';
import { useState } from 'react';
import styled from 'styled-components';
import { client } from '../api/client.js';
import { describeError } from '../api/describe-error.js';
import { color, font, space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { Field } from '../ui/Field.js';
import { Faint, Trouble } from '../ui/Panel.js';

const Row = styled.li`
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: ${space.xs} ${space.m};
  align-items: start;
  padding: ${space.xs} 0;
  code { font: 12.5px ${font.mono}; }
  .reason { color: ${color.brass}; }
  form { grid-column: 1 / -1; display: flex; gap: ${space.s}; align-items: end; }
  form > :first-child { flex: 1; }
`;

interface DifferenceRowProps {
  readonly service: ServiceView;
  readonly trial: TrialDetail;
  readonly step: TriedStep;
  readonly difference: TriedStep['differences'][number];
}

/** One difference, and what may become of it: adopted into the case, or accepted with a reason. */
export function DifferenceRow({ service, trial, step, difference }: DifferenceRowProps) {
  const { at, message, rule, accepted } = difference;
  const [isAccepting, setAccepting] = useState(false);
  const { adopt, accept } = useDecisions(service, trial, step, at);
  const saved = adopt.data ?? accept.data;
  const error = adopt.error ?? accept.error;
  const isOwn = service.operationList.some(({ name }) => name === step.operation);
  const canAdopt = step.kind === 'case' && step.got !== null;
  const isOpen = accepted === null && saved === undefined && trial.state !== 'running';
  return (
    <Row>
      <span>
        <code>{at}</code> {message} {rule !== null && <Faint>{rule}</Faint>}
        {accepted !== null && <span className="reason"> accepted: {accepted}</span>}
        {saved !== undefined && (
          <Faint role="status"> saved as revision {saved.revision}; the next trial shows it</Faint>
        )}
      </span>
      {isOpen && isOwn && (
        <span>
          {canAdopt && (
            <Button aria-label={`Adopt ${at}`} onPress={() => adopt.mutate()} isDisabled={adopt.isPending}>
              Adopt
            </Button>
          )}{' '}
          <Button aria-label={`Accept ${at}`} aria-expanded={isAccepting} onPress={() => setAccepting(!isAccepting)}>
            Accept
          </Button>
        </span>
      )}
      {isOpen && isAccepting && (
        <ReasonForm onReason={(because) => accept.mutate(because)} isPending={accept.isPending} />
      )}
      {error !== null && <Trouble>{describeError(error)}</Trouble>}
    </Row>
  );
}

function ReasonForm({
  onReason,
  isPending,
}: {
  readonly onReason: (because: string) => void;
  readonly isPending: boolean;
}) {
  const [because, setBecause] = useState('');
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        onReason(because);
      }}
    >
      <Field label="accepted because" value={because} onChange={setBecause} placeholder="known, fixed in 2.4" />
      <Button type="submit" data-kind="main" isDisabled={because.trim() === '' || isPending}>
        Accept
      </Button>
    </form>
  );
}

function useDecisions(service: ServiceView, trial: TrialDetail, { operation, kind, name }: TriedStep, at: string) {
  const queries = useQueryClient();
  const onSuccess = () => queries.invalidateQueries({ queryKey: ['services', service.name] });
  const adopt = useMutation({
    mutationFn: () => client.adoptDifference(trial.id, { operation, case: name, at }),
    onSuccess,
  });
  const accept = useMutation({
    mutationFn: (because: string) =>
      client.acceptDifference(trial.id, { operation, case: kind === 'case' ? name : null, at, because }),
    onSuccess,
  });
  return { adopt, accept };
}
