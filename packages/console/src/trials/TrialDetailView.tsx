import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import type { ServiceView, TrialDetail } from '@upsetter/core/wire';
import styled from 'styled-components';
import { client } from '../api/client.js';
import { describeError } from '../api/describe-error.js';
import { trialQuery } from '../api/queries.js';
import { color, space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { formatMoment } from '../ui/format.js';
import { Faint, Panel, Trouble } from '../ui/Panel.js';
import { TrialLadder } from './TrialLadder.js';

const Column = styled.div`
  display: flex;
  flex-direction: column;
  gap: ${space.m};
`;

const Head = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: ${space.xs} ${space.l};
  strong { color: ${color.vermilion}; }
`;

const Changes = styled.ul`
  margin: 0;
  padding-left: ${space.l};
  .began, .changed { color: ${color.vermilion}; }
  .ended { color: ${color.lichen}; }
`;

/** One trial, while it runs and afterwards: what changed since the one before, then step by step. */
export function TrialDetailView({ service, id }: { readonly service: ServiceView; readonly id: string }) {
  const { data: trial, error } = useQuery(trialQuery(id));
  if (error !== null && trial === undefined) return <Trouble>{describeError(error)}</Trouble>;
  if (trial === undefined) return <Faint>loading ...</Faint>;
  return (
    <Column>
      <TrialHead service={service.name} trial={trial} />
      <SinceBefore trial={trial} />
      <TrialLadder service={service} trial={trial} />
    </Column>
  );
}

function TrialHead({ service, trial }: { readonly service: string; readonly trial: TrialDetail }) {
  const queries = useQueryClient();
  const stop = useMutation({
    mutationFn: () => client.stopTrial(trial.id),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['trial', trial.id] }),
  });
  const { differs, holds, accepted, notTried } = trial.counts;
  return (
    <Head>
      <Link to="/services/$name" params={{ name: service }} search={{ view: 'trials' }}>
        All trials
      </Link>
      <span>
        against <code>{trial.against}</code>
      </span>
      <Faint>
        {trial.environment}, {formatMoment(trial.startedAt)}
      </Faint>
      <span role="status">
        {differs > 0 ? <strong>{differs} differ</strong> : 'none differs'}, {holds} hold
        {accepted > 0 && `, ${accepted} accepted`}
        {notTried > 0 && `, ${notTried} not tried`}
        {trial.state === 'running'
          ? `, ${trial.steps.length} of ${trial.planned ?? '...'} sent`
          : trial.state === 'done'
            ? ''
            : `, ${trial.state}`}
      </span>
      {trial.state === 'running' ? (
        <Button onPress={() => stop.mutate()} isDisabled={stop.isPending}>
          Stop
        </Button>
      ) : (
        <>
          <a href={`/api/trials/${trial.id}/page`} download={`trial-${service}.html`}>
            as a page
          </a>
          <a href={`/api/trials/${trial.id}/junit`} download={`trial-${service}.xml`}>
            as JUnit XML
          </a>
        </>
      )}
      {trial.trouble !== null && <Trouble>{trial.trouble}</Trouble>}
    </Head>
  );
}

const WORDS = {
  began: '✕ differs now',
  changed: '✕ differs otherwise',
  ended: '● differs no more',
  new: '○ tried for the first time',
  gone: '○ not tried any more',
} as const;

function SinceBefore({ trial: { since, state } }: { readonly trial: TrialDetail }) {
  if (state === 'running' || since === null) return null;
  if (since.changes.length === 0) return <Faint>Nothing changed since {formatMoment(since.startedAt)}.</Faint>;
  return (
    <Panel>
      <h2>Since {formatMoment(since.startedAt)}</h2>
      <Changes>
        {since.changes.map(({ operation, name, what, differences }) => (
          <li key={`${operation} ${name}`}>
            <span className={what}>{WORDS[what]}</span> {operation} / {name}{' '}
            <Faint>{differences.map(({ at }) => at).join(', ')}</Faint>
          </li>
        ))}
      </Changes>
    </Panel>
  );
}
