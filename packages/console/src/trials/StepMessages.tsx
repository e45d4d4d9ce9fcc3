import type { TrialAnswer, TriedStep } from '@upsetter/core/wire';
import styled from 'styled-components';
import { color, space } from '../theme/tokens.js';
import { Payload } from '../ui/Payload.js';
import { prettyBody } from '../ui/pretty-body.js';

const Sides = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(220px, 1fr));
  gap: ${space.s};
  margin-top: ${space.xs};
  h4 { font-size: 13px; font-weight: 400; color: ${color.faint}; margin: 0 0 2px; }
`;

/** The full messages of both sides. */
export function StepMessages({ step: { request, wanted, got } }: { readonly step: TriedStep }) {
  return (
    <Sides>
      {request !== null && <Side title="the call" first={`${request.method} ${request.target}`} message={request} />}
      {wanted !== null && <Side title="the case answers" first={String(wanted.status)} message={wanted} />}
      {got !== null && <Side title="the real one answered" first={String(got.status)} message={got} />}
    </Sides>
  );
}

interface SideProps {
  readonly title: string;
  /** Above the headers. */
  readonly first: string;
  readonly message: Pick<TrialAnswer, 'headers' | 'body'>;
}

function Side({ title, first, message: { headers, body } }: SideProps) {
  const lines = headers.flatMap((name, i) => (i % 2 === 0 ? [`${name.toLowerCase()}: ${headers[i + 1] ?? ''}`] : []));
  const text = [first, ...lines, '', prettyBody(body ?? '')].join('\n');
  return (
    <div>
      <h4>{title}</h4>
      <Payload>{text}</Payload>
    </div>
  );
}
