import { useMutation } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import type { ServiceView, TryRequest, TryResult } from '@upsetter/core/wire';
import { useState } from 'react';
import styled from 'styled-components';
import { client } from '../api/client.js';
import { describeError } from '../api/describe-error.js';
import { asCurl, asFetch, type WrittenCall } from '../calls/call-as-code.js';
import { keepTried, parseHeaders, readTried, type TriedCall } from '../calls/tried-calls.js';
import { WhyLadder } from '../calls/WhyLadder.js';
import { space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { CopyButton } from '../ui/CopyButton.js';
import { Field } from '../ui/Field.js';
import { formatMs } from '../ui/format.js';
import { Faint, Panel, Trouble } from '../ui/Panel.js';
import { Payload } from '../ui/Payload.js';
import { prettyBody } from '../ui/pretty-body.js';
import { TextBox } from '../ui/TextBox.js';
import { TryHistory } from './TryHistory.js';

const Line = styled.div`
  display: grid;
  grid-template-columns: 72px minmax(0, 1fr);
  gap: ${space.s};
`;

const Buttons = styled.div`
  display: flex;
  align-items: center;
  gap: ${space.xs};
`;

/** Sends one call to the mock, as any caller would; shows what came back and why. What was tried is kept in the browser. */
export function TryPanel({ service, lane }: { readonly service: ServiceView; readonly lane: string }) {
  const [call, setCall] = useState<TriedCall>(() => readTried(service.name)[0] ?? firstCall(service));
  const [kept, setKept] = useState(() => readTried(service.name));
  const change = (part: Partial<TriedCall>): void => setCall({ ...call, ...part });
  const send = useMutation({
    mutationFn: () => client.tryCall(service.name, toRequest(call, lane)),
    onMutate: () => setKept(keepTried(service.name, call)),
  });
  return (
    <Panel aria-label="Try">
      <h2>Try {lane !== 'main' && <Faint>in lane {lane}</Faint>}</h2>
      <Line>
        <Field label="method" value={call.method} onChange={(method) => change({ method })} />
        <Field label="path and query" value={call.path} onChange={(path) => change({ path })} />
      </Line>
      <TextBox
        label="headers, one a line"
        value={call.headers}
        onChange={(headers) => change({ headers })}
        placeholder="accept: application/json"
        most={6}
      />
      <TextBox label="body (JSON or XML)" value={call.body} onChange={(body) => change({ body })} placeholder="none" />
      {service.address?.startsWith('https:') === true && (
        <Field
          label="client certificate of"
          value={call.certificate ?? ''}
          onChange={(certificate) => change({ certificate })}
          placeholder="nobody"
        />
      )}
      <Buttons>
        <Button data-kind="main" onPress={() => send.mutate()} isDisabled={send.isPending}>
          {send.isPending ? 'waiting ...' : 'Send'}
        </Button>
        <CopyButton text={asCurl(written(service, call, lane))} what="as curl" label="curl" />
        <CopyButton text={asFetch(written(service, call, lane))} what="as fetch" label="fetch" />
      </Buttons>
      <TryHistory calls={kept} onChoose={setCall} />
      {send.error !== null && <Trouble>{describeError(send.error)}</Trouble>}
      {send.data !== undefined && <Result result={send.data} />}
    </Panel>
  );
}

function firstCall({ operationList }: ServiceView): TriedCall {
  const [method = 'GET', path = '/'] = operationList[0]?.on.split(' ') ?? [];
  return { method, path, headers: '', body: '' };
}

function toRequest({ method, path, headers, body, certificate = '' }: TriedCall, lane: string): TryRequest {
  const own = parseHeaders(headers);
  const type = body === '' || own['content-type'] !== undefined ? {} : { 'content-type': typeOf(body) };
  return {
    method: method.toUpperCase(),
    path,
    headers: { ...type, ...own },
    body: body === '' ? null : body,
    lane,
    certificate: certificate === '' ? null : certificate,
  };
}

/** The same call as others would send it. */
function written({ address }: ServiceView, call: TriedCall, lane: string): WrittenCall {
  const { method, path, headers = {}, body = null } = toRequest(call, lane);
  const inLane = lane === 'main' ? headers : { ...headers, 'upsetter-lane': lane };
  const url = `${address ?? ''}${path}`;
  const { certificate = '' } = call;
  return {
    url,
    method,
    headers: Object.entries(inLane).flat(),
    body,
    certificate: certificate === '' ? null : certificate,
  };
}

function typeOf(body: string): string {
  if (!body.trimStart().startsWith('<')) return 'application/json';
  return body.includes('http://www.w3.org/2003/05/soap-envelope') ? 'application/soap+xml' : 'text/xml';
}

/** What came back; for a stray, why comes first: that is what one wants to know. */
function Result({ result }: { readonly result: TryResult }) {
  const isStray = result.call?.stray === true;
  return (
    <>
      <span role="status">
        <strong>{result.status}</strong> <Faint>in {formatMs(result.tookMs)}</Faint>{' '}
        {result.call !== null && (
          <Link to="/calls/$id" params={{ id: result.call.id }}>
            the call
          </Link>
        )}
      </span>
      {isStray && result.why !== null && <WhyLadder why={result.why} />}
      <Payload>{prettyBody(result.body)}</Payload>
      {!isStray && result.why !== null && <WhyLadder why={result.why} />}
    </>
  );
}
