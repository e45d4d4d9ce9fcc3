import { useQuery } from '@tanstack/react-query';
import type { ServiceView } from '@upsetter/core/wire';
import styled from 'styled-components';
import { describeError } from '../api/describe-error.js';
import { trialsQuery } from '../api/queries.js';
import { space } from '../theme/tokens.js';
import { Empty, Faint, Trouble } from '../ui/Panel.js';
import { TrialDetailView } from './TrialDetailView.js';
import { TrialForm } from './TrialForm.js';
import { TrialList } from './TrialList.js';

const Column = styled.div`
  display: flex;
  flex-direction: column;
  gap: ${space.l};
`;

interface TrialsViewProps {
  readonly service: ServiceView;
  /** The one that is looked at; undefined: the list of all. */
  readonly trial: string | undefined;
}

/** The trials of a service: begun here, kept by environment, each with its ladder. */
export function TrialsView({ service, trial }: TrialsViewProps) {
  const { data: trials, error } = useQuery(trialsQuery(service.name));
  if (error !== null) return <Trouble>{describeError(error)}</Trouble>;
  if (trials === undefined) return <Faint>loading ...</Faint>;
  if (trial !== undefined) return <TrialDetailView service={service} id={trial} />;
  return (
    <Column>
      <TrialForm service={service} latest={trials[0]} />
      {trials.length === 0 ? (
        <Empty>
          No trial yet. Name the real implementation above, or run{' '}
          <code>upsetter trial {service.name} --against URL</code>
        </Empty>
      ) : (
        <TrialList service={service.name} trials={trials} />
      )}
    </Column>
  );
}
