import type { CallSummary } from '@upsetter/core/wire';
import styled from 'styled-components';
import { color } from '../theme/tokens.js';

type Kind = 'answered' | 'refused' | 'upset' | 'stray' | 'failed' | 'open' | 'own';

const SIGNS: Readonly<Record<Kind, { shape: string; color: string }>> = {
  answered: { shape: 'M5 0a5 5 0 1 0 0 10a5 5 0 1 0 0-10z', color: color.lichen },
  refused: { shape: 'M0 0h10v10h-10zM2 4v2h6v-2z', color: color.brass },
  upset: { shape: 'M5 0l5 10h-10z', color: color.plum },
  stray: { shape: 'M5 0l5 5-5 5-5-5z', color: color.brass },
  failed: { shape: 'M0 2l2-2 3 3 3-3 2 2-3 3 3 3-2 2-3-3-3 3-2-2 3-3z', color: color.vermilion },
  open: { shape: 'M5 0a5 5 0 1 0 0 10a5 5 0 1 0 0-10zm0 2a3 3 0 1 1 0 6a3 3 0 1 1 0-6z', color: color.faint },
  own: { shape: 'M0 4h10v2h-10z', color: color.faint },
};

/** What a call came to: a kind with a shape of its own, and the word for it. */
export function outcomeOf(call: CallSummary): { kind: Kind; word: string } {
  if (call.state === 'in flight') return { kind: 'open', word: 'in flight' };
  if (call.state === 'broken') return { kind: 'failed', word: 'broken off by the caller' };
  if (call.answeredBy === 'access') return { kind: 'refused', word: 'refused: no access' };
  if (call.trouble !== null) return { kind: 'failed', word: 'failed' };
  if (call.answeredBy === 'upset') return { kind: 'upset', word: 'upset' };
  if (isContractItself(call)) return { kind: 'own', word: 'the contract itself' };
  if (call.answeredBy === 'contract') return { kind: 'refused', word: 'refused by the contract' };
  if (call.stray) return { kind: 'stray', word: call.answeredBy === 'upstream' ? 'stray, relayed' : 'stray' };
  if (call.answeredBy === 'nobody') return { kind: 'own', word: 'the mock itself' };
  return { kind: 'answered', word: 'answered' };
}

/** Its document was asked for (`?wsdl`), and nothing was refused. */
function isContractItself({ answeredBy, operation }: CallSummary): boolean {
  return answeredBy === 'contract' && operation === null;
}

const Mark = styled.svg`
  width: 10px;
  height: 10px;
  flex: none;
`;

export function OutcomeMark({ call }: { readonly call: CallSummary }) {
  const { kind, word } = outcomeOf(call);
  const sign = SIGNS[kind];
  return (
    <Mark viewBox="0 0 10 10" role="img" aria-label={word}>
      <path d={sign.shape} fill={sign.color} fillRule="evenodd" />
    </Mark>
  );
}

/** Who answered, in words: operation and case, the upset, or stray. */
export function answeredByText(call: CallSummary): string {
  if (call.answeredBy === 'upset') return `upset: ${call.upsets.join(', ')}`;
  if (call.answeredBy === 'upstream' && call.stray) return 'stray, relayed to the upstream';
  if (call.answeredBy === 'access') return `${call.operation ?? ''} refused: no access`.trim();
  if (isContractItself(call)) return 'the contract itself';
  if (call.answeredBy === 'contract') return `${call.operation ?? ''} refused by the contract`.trim();
  if (call.stray) return call.operation === null ? 'stray' : `stray at ${call.operation}`;
  if (call.operation === null) return call.trouble ?? (call.state === 'in flight' ? 'in flight' : 'the mock itself');
  return call.case === null ? call.operation : `${call.operation} / ${call.case}`;
}
