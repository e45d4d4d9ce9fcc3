import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import type { LaneView } from '@upsetter/core/wire';
import { useState } from 'react';
import styled from 'styled-components';
import { client } from '../api/client.js';
import { describeError } from '../api/describe-error.js';
import { lanesQuery } from '../api/queries.js';
import { space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { Field } from '../ui/Field.js';
import { formatCount, formatMoment } from '../ui/format.js';
import { Faint, Panel, Trouble } from '../ui/Panel.js';
import { LaneChanges } from './LaneChanges.js';

const List = styled.div`
  display: flex;
  flex-direction: column;
  gap: ${space.m};
`;

const Head = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: ${space.xs} ${space.m};
  h2 { margin-right: auto; }
`;

const Clock = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: end;
  gap: ${space.s};
  .by { width: 96px; }
  > span, > [data-kind='quiet'] { padding-bottom: 5px; }
`;

/** The lanes that have called a service: what is another there than at the start, their clocks; reset, let go of, chosen for Try. */
export function LanesView({ service, chosen }: { readonly service: string; readonly chosen: string }) {
  const { data: lanes, error } = useQuery(lanesQuery);
  if (error !== null && lanes === undefined) return <Trouble>{describeError(error)}</Trouble>;
  // One that was reset has called nothing since: it stays, so that its clock can be reached.
  const own = (lanes ?? []).filter(
    ({ name, services }) =>
      name === 'main' || services.length === 0 || services.some((called) => called.service === service),
  );
  return (
    <List>
      <Faint>
        A lane is one caller’s private world: header <code>upsetter-lane</code>, or member <code>lane</code> of W3C
        baggage. It is the same on every service.
      </Faint>
      {own.map((lane) => (
        <LanePanel key={lane.name} lane={lane} service={service} isChosen={lane.name === chosen} />
      ))}
    </List>
  );
}

/** Lanes live for hours: the day goes without saying. */
function timeOf(moment: string): string {
  return formatMoment(moment).slice(-'00:00:00'.length);
}

interface LanePanelProps {
  readonly lane: LaneView;
  readonly service: string;
  /** Try calls in this lane. */
  readonly isChosen: boolean;
}

function LanePanel({ lane, service, isChosen }: LanePanelProps) {
  const queries = useQueryClient();
  const onSettled = () => queries.invalidateQueries({ queryKey: ['lanes'] });
  const reset = useMutation({ mutationFn: () => client.resetLane(lane.name), onSettled });
  const drop = useMutation({ mutationFn: () => client.dropLane(lane.name), onSettled });
  const error = reset.error ?? drop.error;
  const { name } = lane;
  return (
    <Panel aria-label={`Lane ${name}`}>
      <Head>
        <h2>{name}</h2>
        <Faint>
          {formatCount(lane.calls, 'call')}
          {lane.lastCallAt !== null && `, the last ${timeOf(lane.lastCallAt)}`}
          {lane.resetAt !== null && `, reset ${timeOf(lane.resetAt)}`}
        </Faint>
        {isChosen ? (
          <strong>● Try calls here</strong>
        ) : (
          <Link
            to="/services/$name"
            params={{ name: service }}
            search={{ view: 'lanes', lane: name === 'main' ? undefined : name }}
          >
            Try here
          </Link>
        )}
        <Button onPress={() => reset.mutate()} isDisabled={reset.isPending}>
          Reset
        </Button>
        {name !== 'main' && (
          <Button data-kind="quiet" onPress={() => drop.mutate()} isDisabled={drop.isPending}>
            Let go
          </Button>
        )}
      </Head>
      <LaneChanges services={lane.services} />
      <ClockLine lane={lane} onSettled={onSettled} />
      {error !== null && <Trouble>{describeError(error)}</Trouble>}
    </Panel>
  );
}

function ClockLine({ lane, onSettled }: { readonly lane: LaneView; readonly onSettled: () => void }) {
  const [by, setBy] = useState('1h');
  const set = useMutation({
    mutationFn: (change: Parameters<typeof client.setLaneClock>[1]) => client.setLaneClock(lane.name, change),
    onSettled,
  });
  const { isFrozen, aheadMs, now } = lane.clock;
  const isMoved = isFrozen || aheadMs !== 0;
  return (
    <>
      <Clock>
        <span>
          Its clock: <code>{now.slice(0, 19).replace('T', ' ')}</code>{' '}
          <Faint>{isFrozen ? 'stands still' : aheadMs === 0 ? 'real time' : 'set on'}</Faint>
        </span>
        {!isFrozen && (
          <Button data-kind="quiet" onPress={() => set.mutate({ freeze: true })}>
            Stop it
          </Button>
        )}
        <Field className="by" label="by" value={by} onChange={setBy} />
        <Button onPress={() => set.mutate({ advance: by })}>Set on</Button>
        {isMoved && (
          <Button data-kind="quiet" onPress={() => set.mutate({ release: true })}>
            Real time again
          </Button>
        )}
      </Clock>
      {set.error !== null && <Trouble>{describeError(set.error)}</Trouble>}
    </>
  );
}
