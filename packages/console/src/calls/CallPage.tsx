import { useQuery } from '@tanstack/react-query';
import { getRouteApi, Link } from '@tanstack/react-router';
import type { CallDetail } from '@upsetter/core/wire';
import styled from 'styled-components';
import { describeError } from '../api/describe-error.js';
import { callQuery, whyQuery } from '../api/queries.js';
import { Findings } from '../contracts/Findings.js';
import { space } from '../theme/tokens.js';
import { formatMs, formatTime } from '../ui/format.js';
import { Address } from '../ui/Method.js';
import { answeredByText, OutcomeMark, outcomeOf } from '../ui/Outcome.js';
import { Faint, Panel, Trouble } from '../ui/Panel.js';
import { Callbacks } from './Callbacks.js';
import { DelayBar } from './DelayBar.js';
import { KeepCall } from './KeepCall.js';
import { Message } from './Message.js';
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
      {call.answeredBy === 'upstream' && call.stray && <KeepCall id={call.id} />}
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
