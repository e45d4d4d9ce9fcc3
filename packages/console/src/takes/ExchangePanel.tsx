import { useQuery } from '@tanstack/react-query';
import type { ExchangeDetail, KeptBody } from '@upsetter/core/wire';
import styled from 'styled-components';
import { describeError } from '../api/describe-error.js';
import { exchangeQuery } from '../api/queries.js';
import { Message } from '../calls/Message.js';
import { space } from '../theme/tokens.js';
import { Faint, Trouble } from '../ui/Panel.js';

const Columns = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: ${space.l};
  margin-top: ${space.m};
`;

/** Both sides of one exchange. */
export function ExchangePanel({ take, index }: { readonly take: string; readonly index: number }) {
  const { data: exchange, error } = useQuery(exchangeQuery(take, index));
  if (error !== null) return <Trouble>{describeError(error)}</Trouble>;
  if (exchange === undefined) return <Faint>loading ...</Faint>;
  return (
    <Columns>
      <Message title="Request" headers={exchange.requestHeaders} body={textBody(exchange.requestBody)} />
      <Message title={`Answer ${exchange.status}`} headers={exchange.responseHeaders} body={answerBody(exchange)} />
    </Columns>
  );
}

function textBody(text: string | null): KeptBody {
  return { sizeBytes: text === null ? 0 : text.length, text, base64: null, sha256: null };
}

function answerBody({ responseText, responseBase64 }: ExchangeDetail): KeptBody {
  if (responseBase64 === null) return textBody(responseText);
  return { sizeBytes: responseBase64.length, text: null, base64: responseBase64, sha256: null };
}
