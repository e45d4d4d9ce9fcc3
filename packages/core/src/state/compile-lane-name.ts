import { compileText, createTextScope } from '../answer/compile-text.js';
import type { PathKey } from '../definition/yaml-source.js';
import { type NamesInScope, ONLY_THE_CALL } from '../expression/compile-context.js';
import { Frame } from '../expression/frame.js';
import { toText } from '../expression/value.js';
import type { RequestView } from '../request/request-view.js';
import { hashText } from './draw.js';
import { Lane } from './lane.js';
import { LONGEST_LANE_NAME } from './lane-name.js';
import { NOTHING_STARTS } from './starting-data.js';

/** The service's own way to name the lane of a call; empty: it is `main`. Never fails. */
export type NameLane = (request: RequestView) => string;

type Report = (message: string, path: readonly PathKey[], offset?: number) => void;

/** What is known before the body is there and the operation is found. */
const TOO_EARLY = /\bcall\.(json|form|xml|text|path)\b/;

/** `lane: "${call.headers['x-test']}"`, for calls that name no lane themselves. Null: the service has none. */
export function compileLaneName(
  lane: string | undefined,
  service: string,
  vars: NamesInScope['vars'],
  report: Report,
): NameLane | null {
  if (lane === undefined) return null;
  const early = TOO_EARLY.exec(lane);
  if (early !== null)
    report(`\`lane\` is asked before the body and the operation are known: ${early[0]} is not there yet`, ['lane']);
  const compiled = compileText(lane, ['lane'], createTextScope(report, { ...ONLY_THE_CALL, vars }));
  if (compiled.kind === 'constant') return () => compiled.text;
  const nobody = new Lane('main', service);
  return (request) => {
    try {
      const frame = new Frame(request, nobody, service, request.receivedAtMs, hashText('lane'), NOTHING_STARTS);
      return toText(compiled.evaluate(frame) ?? '').slice(0, LONGEST_LANE_NAME);
    } catch {
      return '';
    }
  };
}
