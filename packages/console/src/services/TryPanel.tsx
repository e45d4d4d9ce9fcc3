import { useMutation } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import type { ServiceView, TryResult } from '@upsetter/core/wire';
import { useState } from 'react';
import styled from 'styled-components';
import { client } from '../api/client.js';
import { describeError } from '../api/describe-error.js';
import { WhyLadder } from '../calls/WhyLadder.js';
import { space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { Field } from '../ui/Field.js';
import { formatMs } from '../ui/format.js';
import { Faint, Panel, Trouble } from '../ui/Panel.js';
import { Payload } from '../ui/Payload.js';
import { prettyBody } from '../ui/pretty-body.js';

const Line = styled.div`
  display: grid;
  grid-template-columns: 72px minmax(0, 1fr);
  gap: ${space.s};
`;

/** Sends one call to the mock, as any caller would; shows what came back and why. */
export function TryPanel({ service, lane }: { readonly service: ServiceView; readonly lane: string }) {
  const first = service.operationList[0]?.on.split(' ') ?? ['GET', '/'];
  const [method, setMethod] = useState(first[0] ?? 'GET');
  const [path, setPath] = useState(first[1] ?? '/');
  const [body, setBody] = useState('');
  const send = useMutation({
    mutationFn: () => {
      const headers: Record<string, string> = body === '' ? {} : { 'content-type': typeOf(body) };
      return client.tryCall(service.name, {
        method: method.toUpperCase(),
        path,
        headers,
        body: body === '' ? null : body,
        lane,
      });
    },
  });
  return (
    <Panel aria-label="Try">
      <h2>Try {lane !== 'main' && <Faint>in lane {lane}</Faint>}</h2>
      <Line>
        <Field label="method" value={method} onChange={setMethod} />
        <Field label="path and query" value={path} onChange={setPath} />
      </Line>
      <Field label="body (JSON or XML)" value={body} onChange={setBody} placeholder="none" />
      <div>
        <Button data-kind="main" onPress={() => send.mutate()} isDisabled={send.isPending}>
          {send.isPending ? 'waiting ...' : 'Send'}
        </Button>
      </div>
      {send.error !== null && <Trouble>{describeError(send.error)}</Trouble>}
      {send.data !== undefined && <Result result={send.data} />}
    </Panel>
  );
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
