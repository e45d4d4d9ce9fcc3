import type { CallDetail } from '@upsetter/core/wire';
import styled from 'styled-components';
import { color, space } from '../theme/tokens.js';
import { formatMs } from '../ui/format.js';
import { Panel } from '../ui/Panel.js';

const WIDTH = 600;
const HEIGHT = 12;

const Bar = styled.svg`
  width: 100%;
  max-width: ${WIDTH}px;
  height: ${HEIGHT}px;
  display: block;
`;

const Line = styled.div`
  display: grid;
  grid-template-columns: 130px minmax(0, 1fr);
  align-items: center;
  gap: ${space.s};
`;

/** What upsets asked for and what was given, on one scale of time. */
export function DelayBar({ call }: { readonly call: CallDetail }) {
  const scale = WIDTH / Math.max(call.delayAskedMs, call.delayGivenMs, call.totalMs, 1);
  return (
    <Panel aria-label="Upsets of this call">
      <h2>Upset by {call.upsets.join(', ')}</h2>
      <Length label={`asked ${formatMs(call.delayAskedMs)}`} px={call.delayAskedMs * scale} fill={color.hairline} />
      <Length label={`given ${formatMs(call.delayGivenMs)}`} px={call.delayGivenMs * scale} fill={color.plum} />
      <Length label={`own time ${formatMs(call.ownMs)}`} px={Math.max(1, call.ownMs * scale)} fill={color.water} />
    </Panel>
  );
}

function Length({ label, px, fill }: { readonly label: string; readonly px: number; readonly fill: string }) {
  return (
    <Line>
      <span>{label}</span>
      <Bar viewBox={`0 0 ${WIDTH} ${HEIGHT}`} preserveAspectRatio="none" aria-hidden>
        <rect width={px} height={HEIGHT} fill={fill} />
      </Bar>
    </Line>
  );
}
