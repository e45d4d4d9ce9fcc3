import { renderDuration } from '@upsetter/core/light';
import type { Feed, FeedRun } from '@upsetter/core/wire';
import { renderCount } from './render-count.js';
import { renderTable } from './render-table.js';
import { paint } from './terminal.js';

export function renderFeeds(feeds: readonly Feed[]): string {
  if (feeds.length === 0)
    return 'No feed yet: upsetter feed add berth-desk https://harbour.example/berth-desk.openapi.yaml --every 5m';
  return renderTable(
    ['feed', 'service', 'fetched from', 'every', 'version', 'looked at'],
    feeds.map(({ name, service, source, everyMs, version, checkedAt, trouble }) => [
      name,
      service,
      describeSource(source),
      everyMs === null ? 'by hand' : renderDuration(everyMs),
      trouble === null ? shorten(version) : paint.bad(trouble),
      checkedAt ?? 'never',
    ]),
  );
}

const LONGEST_VERSION = 19;

function shorten(version: string | null): string {
  return version === null ? '' : version.slice(0, LONGEST_VERSION);
}

function describeSource(source: Feed['source']): string {
  if (source.kind === 'file') return source.path;
  if (source.kind === 'url') return source.url;
  return `${source.repository}${source.branch === null ? '' : ` (${source.branch})`}: ${source.path}`;
}

/** What one fetch came to: what the contract changed, and what became of the service. */
export function renderFeedRun(name: string, run: FeedRun): string {
  if (run.outcome === 'same') return `${paint.faint('the same')}  ${name}: nothing is new`;
  if (run.outcome === 'failed') return `${paint.bad('failed')}    ${name}: ${run.message}`;
  const head = `${paint.good(run.outcome === 'created' ? 'created ' : 'merged  ')}  ${run.service}  revision ${run.revision}  ${shorten(run.version)}`;
  return [head, ...renderChanges(run), ...renderMerge(run), ...run.unusable.map(renderUnusable)].join('\n');
}

function renderChanges({ changes }: FeedRun): string[] {
  const lines: string[] = [];
  for (const on of new Set(changes.map((change) => change.on))) {
    lines.push(`  ${paint.strong(on)}`);
    for (const { what, at, message, breaks } of changes.filter((change) => change.on === on)) {
      const words = what === 'changed' ? `${at} ${message}` : message;
      lines.push(`    ${breaks ? paint.bad('breaks callers') : paint.faint('fits callers  ')}  ${words}`);
    }
  }
  return lines;
}

function renderMerge({ merged }: FeedRun): string[] {
  if (merged === null) return [];
  const { added, changed, removed, kept, conflicts } = merged;
  const list = (word: string, parts: readonly string[]): string[] =>
    parts.length === 0 ? [] : [`  ${word} ${parts.join(', ')}`];
  return [
    ...list(paint.good('added'), added),
    ...list(paint.good('drafted anew'), changed),
    ...list(paint.warn('taken away'), removed),
    ...(kept.length === 0
      ? []
      : [paint.faint(`  ${renderCount(kept.length, 'part')} edited by hand stay as they are`)]),
    ...list(paint.warn('edited by hand, and another in the contract now: look at'), conflicts),
  ];
}

function renderUnusable({ at, reason }: FeedRun['unusable'][number]): string {
  return paint.warn(`  ${at}: ${reason}`);
}
