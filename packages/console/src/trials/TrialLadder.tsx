import type { ServiceView, TrialDetail, TriedStep } from '@upsetter/core/wire';
import { useState } from 'react';
import styled from 'styled-components';
import { color, corner, space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { formatMs } from '../ui/format.js';
import { Faint } from '../ui/Panel.js';
import { DifferenceRow } from './DifferenceRow.js';
import { StepMessages } from './StepMessages.js';

const Rungs = styled.ol`
  list-style: none;
  margin: ${space.xs} 0 0;
  padding: 0;
  border: 1px solid ${color.hairline};
  border-radius: ${corner};
  background: ${color.panel};
  > li { padding: ${space.s} ${space.m}; border-left: 3px solid ${color.hairline}; }
  > li + li { border-top: 1px solid ${color.hairline}; }
  > li[data-outcome='holds'] { border-left-color: ${color.lichen}; }
  > li[data-outcome='differs'] { border-left-color: ${color.vermilion}; }
  > li[data-outcome='accepted'] { border-left-color: ${color.brass}; }
  .holds { color: ${color.lichen}; }
  .differs { color: ${color.vermilion}; font-weight: 700; }
  .accepted { color: ${color.brass}; }
  ul { list-style: none; margin: ${space.xs} 0 0; padding: 0; }
`;

const Line = styled.div`
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: ${space.m};
`;

interface TrialLadderProps {
  readonly service: ServiceView;
  readonly trial: TrialDetail;
}

/** Each operation with its steps in the order they were sent, what differs first: how the real answer differs from the case, and from the contract. */
export function TrialLadder({ service, trial }: TrialLadderProps) {
  const differing = new Set(trial.steps.flatMap((own) => (own.outcome === 'differs' ? [own.operation] : [])));
  const all = [...new Set(trial.steps.map(({ operation }) => operation))];
  const operations = [...all.filter((own) => differing.has(own)), ...all.filter((own) => !differing.has(own))];
  return (
    <>
      {operations.map((operation) => (
        <section key={operation} aria-label={operation}>
          <h3>{operation}</h3>
          <Rungs>
            {trial.steps
              .filter((step) => step.operation === operation)
              .map((step) => (
                <Rung key={`${step.kind} ${step.name}`} service={service} trial={trial} step={step} />
              ))}
          </Rungs>
        </section>
      ))}
    </>
  );
}

const SIGNS = {
  holds: '● holds',
  accepted: '◆ accepted',
  differs: '✕ differs',
  'not tried': '○ not tried',
} as const;

const KINDS = { case: '', contract: 'by the contract', hostile: 'must be refused' } as const;

function Rung({ service, trial, step }: TrialLadderProps & { readonly step: TriedStep }) {
  const { request, outcome, differences } = step;
  const [isOpen, setOpen] = useState(false);
  return (
    <li data-outcome={outcome}>
      <Line>
        <StepHead step={step} />
        {request !== null && (
          <Button data-kind="quiet" aria-expanded={isOpen} onPress={() => setOpen(!isOpen)}>
            {isOpen ? 'Hide messages' : 'Messages'}
          </Button>
        )}
      </Line>
      {differences.length > 0 && (
        <ul>
          {differences.map((difference) => (
            <DifferenceRow
              key={`${difference.at} ${difference.message}`}
              service={service}
              trial={trial}
              step={step}
              difference={difference}
            />
          ))}
        </ul>
      )}
      {isOpen && <StepMessages step={step} />}
    </li>
  );
}

function StepHead({ step: { kind, name, outcome, reason, request, got, tookMs } }: { readonly step: TriedStep }) {
  return (
    <span>
      <strong>{name}</strong> {KINDS[kind] !== '' && <Faint>{KINDS[kind]} </Faint>}
      <span className={outcome.replace(' ', '-')}>{SIGNS[outcome]}</span>{' '}
      {request !== null && (
        <Faint>
          {request.method} {request.target} → {got?.status ?? 'no answer'}
          {got !== null && `, ${formatMs(tookMs)}`}
        </Faint>
      )}
      {reason !== null && <Faint> {reason}</Faint>}
    </span>
  );
}
