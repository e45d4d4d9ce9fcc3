import type { Exchange } from '@upsetter/core';
import type { ExchangeDetail, ExchangeSummary, TakeSummary } from '@upsetter/core/wire';
import type { TakeView } from './take-registry.js';

const DECIMALS = 1000;

export function viewTake(take: TakeView): TakeSummary {
  return {
    name: take.name,
    source: take.source,
    upstream: take.upstream,
    state: take.state,
    address: take.address,
    exchanges: take.exchanges,
    startedAt: new Date(take.startedAtMs).toISOString(),
    endedAt: take.endedAtMs === null ? null : new Date(take.endedAtMs).toISOString(),
    trouble: take.trouble,
    masked: [...take.masked],
    hosts: [...take.hosts],
  };
}

export function viewExchange(exchange: Exchange): ExchangeSummary {
  const query = exchange.query.length === 0 ? '' : `?${new URLSearchParams(exchange.query as [string, string][])}`;
  return {
    index: exchange.index,
    at: new Date(exchange.startedAtMs).toISOString(),
    method: exchange.method,
    origin: exchange.origin,
    url: exchange.path + query,
    status: exchange.status,
    contentType: exchange.contentType,
    firstByteMs: round(exchange.firstByteMs),
    tookMs: round(exchange.tookMs),
    trouble: exchange.trouble,
  };
}

export function viewExchangeDetail(exchange: Exchange): ExchangeDetail {
  const { body } = exchange;
  return {
    ...viewExchange(exchange),
    requestHeaders: [...exchange.requestHeaders],
    requestBody: exchange.requestBody,
    responseHeaders: [...exchange.responseHeaders],
    responseText: body?.kind === 'text' ? body.content : null,
    responseBase64: body?.kind === 'base64' ? body.content : null,
  };
}

function round(ms: number): number {
  return Math.round(ms * DECIMALS) / DECIMALS;
}
