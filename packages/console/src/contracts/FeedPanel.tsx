import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import type { Feed, FeedRun } from '@upsetter/core/wire';
import styled from 'styled-components';
import { client } from '../api/client.js';
import { describeError } from '../api/describe-error.js';
import { color, font, space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { formatMoment } from '../ui/format.js';
import { Address } from '../ui/Method.js';
import { Faint, Panel, Trouble } from '../ui/Panel.js';

const Head = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: ${space.xs} ${space.l};
  h2 { margin-right: auto; }
`;

const Changes = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  code { font: 12.5px ${font.mono}; }
  ul { list-style: none; margin: 0 0 ${space.xs}; padding-left: ${space.l}; }
  .breaks { color: ${color.vermilion}; font-weight: 700; }
  .fits { color: ${color.faint}; }
`;

const Runs = styled.ol`
  list-style: none;
  margin: 0;
  padding: 0;
  > li { padding: ${space.s} 0; border-top: 1px solid ${color.hairline}; }
  > li:first-child { border-top: none; }
`;

const SHOWN_RUNS = 5;

/** One feed: where from, what its latest runs brought, and what that breaks. */
export function FeedPanel({ feed }: { readonly feed: Feed }) {
  const queries = useQueryClient();
  const onSettled = () => queries.invalidateQueries();
  const run = useMutation({ mutationFn: () => client.runFeed(feed.name), onSettled });
  const remove = useMutation({ mutationFn: () => client.removeFeed(feed.name), onSettled });
  const error = run.error ?? remove.error;
  return (
    <Panel aria-label={`Feed ${feed.name}`}>
      <Head>
        <h2>
          <Link to="/services/$name" params={{ name: feed.service }}>
            {feed.name}
          </Link>
        </h2>
        <Button onPress={() => run.mutate()} isDisabled={run.isPending}>
          Fetch now
        </Button>
        <Button data-kind="quiet" onPress={() => remove.mutate()} isDisabled={remove.isPending}>
          Follow no more
        </Button>
      </Head>
      <p>
        <code>{describeSource(feed.source)}</code>{' '}
        <Faint>
          {feed.everyMs === null ? 'fetched by hand' : `every ${Math.round(feed.everyMs / 1000)} s`}
          {feed.checkedAt !== null && `, looked at ${formatMoment(feed.checkedAt)}`}
          {run.data?.outcome === 'same' && ', nothing is new'}
        </Faint>
      </p>
      {feed.trouble !== null && <Trouble>{feed.trouble}</Trouble>}
      {error !== null && <Trouble>{describeError(error)}</Trouble>}
      <Runs>
        {feed.runs.slice(0, SHOWN_RUNS).map((own) => (
          <Run key={own.at} run={own} />
        ))}
      </Runs>
    </Panel>
  );
}

function describeSource(source: Feed['source']): string {
  if (source.kind === 'file') return source.path;
  if (source.kind === 'url') return source.url;
  return `${source.repository} ${source.branch ?? ''} ${source.path}`;
}

const WORDS = { created: 'made', merged: 'merged', failed: 'failed', same: 'the same' } as const;

function Run({ run }: { readonly run: FeedRun }) {
  const breaking = run.changes.filter(({ breaks }) => breaks).length;
  return (
    <li>
      <strong>{WORDS[run.outcome]}</strong>{' '}
      <Faint>
        {formatMoment(run.at)}
        {run.service !== null && `, ${run.service} revision ${run.revision}`}
        {run.version !== null && `, ${run.version.slice(0, 19)}`}
        {breaking > 0 && `, ${breaking} of ${run.changes.length} changes break callers`}
      </Faint>
      {run.message !== null && <Trouble>{run.message}</Trouble>}
      <ChangeList changes={run.changes} />
      <Merged merged={run.merged} />
    </li>
  );
}

function ChangeList({ changes }: Pick<FeedRun, 'changes'>) {
  return (
    <Changes>
      {[...new Set(changes.map(({ on }) => on))].map((on) => (
        <li key={on}>
          <Address on={on} />
          <ul>
            {changes
              .filter((change) => change.on === on)
              .map(({ at, message, breaks }) => (
                <li key={`${at} ${message}`}>
                  <span className={breaks ? 'breaks' : 'fits'}>{breaks ? '✕ breaks callers' : '● fits callers'}</span>{' '}
                  {at !== '' && <code>{at}</code>} {message}
                </li>
              ))}
          </ul>
        </li>
      ))}
    </Changes>
  );
}

function Merged({ merged }: Pick<FeedRun, 'merged'>) {
  if (merged === null) return null;
  const parts = [
    ['added', merged.added],
    ['drafted anew', merged.changed],
    ['taken away', merged.removed],
    ['edited by hand, and another in the contract now', merged.conflicts],
  ] as const;
  const told = parts.filter(([, names]) => names.length > 0).map(([word, names]) => `${word}: ${names.join(', ')}`);
  return told.length === 0 ? null : <Faint>{told.join('; ')}</Faint>;
}
