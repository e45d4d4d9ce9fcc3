import type { KeptBody } from '@upsetter/core/wire';
import styled from 'styled-components';
import { color, space } from '../theme/tokens.js';
import { Faint, Panel } from '../ui/Panel.js';
import { Payload } from '../ui/Payload.js';
import { prettyBody } from '../ui/pretty-body.js';

const Headers = styled.dl`
  margin: 0;
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 0 ${space.m};
  font-size: 13px;
  dt { color: ${color.faint}; }
  dd { margin: 0; overflow-wrap: anywhere; }
`;

export interface MessageProps {
  readonly title: string;
  /** Flat: name, value, name, value. */
  readonly headers: readonly string[];
  readonly body: KeptBody;
}

/** One side of a call: headers and body, as kept. */
export function Message({ title, headers, body }: MessageProps) {
  const pairs = headers.flatMap((name, i) => (i % 2 === 0 ? [{ name, value: headers[i + 1] ?? '', position: i }] : []));
  return (
    <Panel aria-label={title}>
      <h2>{title}</h2>
      <Headers>
        {pairs.map(({ name, value, position }) => (
          <Pair key={position} name={name} value={value} />
        ))}
      </Headers>
      <BodyView body={body} />
    </Panel>
  );
}

function Pair({ name, value }: { readonly name: string; readonly value: string }) {
  return (
    <>
      <dt>{name.toLowerCase()}</dt>
      <dd>{value}</dd>
    </>
  );
}

function BodyView({ body }: { readonly body: KeptBody }) {
  if (body.sizeBytes === 0) return <Faint>no body</Faint>;
  if (body.text !== null) return <Payload>{prettyBody(body.text)}</Payload>;
  if (body.base64 !== null) return <Payload>{body.base64}</Payload>;
  return (
    <Faint>
      {body.sizeBytes} bytes, over the limit that is kept; SHA-256 {body.sha256}
    </Faint>
  );
}
