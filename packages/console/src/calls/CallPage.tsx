import { useQuery } from '@tanstack/react-query';
import { getRouteApi, Link } from '@tanstack/react-router';
import type { CallDetail } from '@upsetter/core/wire';
import styled from 'styled-components';
import { describeError } from '../api/describe-error.js';
import { callQuery, serviceQuery, whyQuery } from '../api/queries.js';
import { Findings } from '../contracts/Findings.js';
import { space } from '../theme/tokens.js';
import { CopyButton } from '../ui/CopyButton.js';
import { formatMs, formatTime } from '../ui/format.js';
import { Address } from '../ui/Method.js';
import { answeredByText, OutcomeMark, outcomeOf } from '../ui/Outcome.js';
import { Faint, Panel, Trouble } from '../ui/Panel.js';
import { AnswerThis } from './AnswerThis.js';
import { Callbacks } from './Callbacks.js';
import { asCurl, asFetch } from './call-as-code.js';
import { DelayBar } from './DelayBar.js';
import { KeepCall } from './KeepCall.js';
import { Message } from './Message.js';
import { TryAgain } from './TryAgain.js';
import { WhyLadder } from './WhyLadder.js';

const route = getRouteApi('/calls/$id');

const Head = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: ${space.xs} ${space.l};
  margin-bottom: ${space.m};
  h1 { font-size: 22px; overflow-wrap: anywhere; }
`;

const Columns = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: ${space.l};
  margin-bottom: ${space.l};
`;

const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: ${space.s};
  margin-bottom: ${space.m};
`;

const Stack = styled.div`
  display: flex;
  flex-direction: column;
  gap: ${space.l};
`;

/** One call: request and answer side by side, what upset it, and why. */
export function CallPage() {
  const { id } = route.useParams();
  const { data: call, error } = useQuery(callQuery(id));
  const { data: why } = useQuery(whyQuery(id));
  if (error !== null) return <Trouble>{describeError(error)}</Trouble>;
  if (call === undefined) return <Faint>loading ...</Faint>;
  return (
    <>
      <Header call={call} />
      {call.trouble !== null && <Trouble>{call.trouble}</Trouble>}
      <Actions call={call} />
      <Columns>
        <Message title="Request" headers={call.requestHeaders} body={call.requestBody} />
        <Message title={`Answer ${call.status ?? ''}`} headers={call.responseHeaders} body={call.responseBody} />
      </Columns>
      <Stack>
        {call.findingList.length > 0 && <Findings findings={call.findingList} />}
        {call.callbackList.length > 0 && <Callbacks callbacks={call.callbackList} />}
        {call.upsets.length > 0 && <DelayBar call={call} />}
        <Panel>
          <h2>Why</h2>
          {why === undefined ? <Faint>loading ...</Faint> : <WhyLadder why={why.why} />}
        </Panel>
      </Stack>
    </>
  );
}

/** What can be made of a call. */
function Actions({ call }: { readonly call: CallDetail }) {
  const { data: service } = useQuery(serviceQuery(call.service));
  const written = {
    url: `${service?.address ?? ''}${call.url}`,
    method: call.method,
    headers: call.requestHeaders,
    body: call.requestBody.sizeBytes === 0 ? null : (call.requestBody.text ?? ''),
  };
  return (
    <Line>
      <AnswerThis id={call.id} />
      <TryAgain call={call} written={{ ...written, url: call.url }} />
      <CopyButton text={asCurl(written)} what="as curl" label="curl" />
      <CopyButton text={asFetch(written)} what="as fetch" label="fetch" />
      {call.answeredBy === 'upstream' && call.stray && <KeepCall id={call.id} />}
    </Line>
  );
}

/** `answered: readTide / any day`; a stray and an upset say it all themselves. */
function describeOutcome(call: CallDetail): string {
  const { kind, word } = outcomeOf(call);
  return kind === 'answered' || kind === 'failed' ? `${word}: ${answeredByText(call)}` : answeredByText(call);
}

function Header({ call }: { readonly call: CallDetail }) {
  return (
    <Head>
      <h1>
        <Address on={`${call.method} ${call.url}`} />
      </h1>
      <span>
        <OutcomeMark call={call} /> {describeOutcome(call)}
      </span>
      <Faint>
        <Link to="/services/$name" params={{ name: call.service }}>
          {call.service}
        </Link>{' '}
        revision {call.revision}, lane {call.lane}, {formatTime(call.at)}, own time {formatMs(call.ownMs)}
      </Faint>
    </Head>
  );
}
