import type { RelayDefinition } from '../definition/answer-forms.js';
import type { PathKey } from '../definition/yaml-source.js';
import { type Frame, fail } from '../expression/frame.js';
import { toText } from '../expression/value.js';
import { compileText, type TextScope } from './compile-text.js';
import { isHeaderValue } from './header-text.js';
import type { RelayedForm } from './rendered-answer.js';

/** `relay`: the call goes to the upstream, with what of it is to be another. */
export function compileRelay(
  relay: RelayDefinition,
  path: readonly PathKey[],
  scope: TextScope,
): (frame: Frame) => RelayedForm {
  if (relay === true) {
    const plain: RelayedForm = { kind: 'relayed', target: null, headers: [], without: [] };
    return () => plain;
  }
  const without = (relay.without ?? []).map((name) => name.toLowerCase());
  const read = (text: string, at: readonly PathKey[]): ((frame: Frame) => string) => {
    const compiled = compileText(text, at, scope);
    return compiled.kind === 'constant' ? () => compiled.text : (frame) => toText(compiled.evaluate(frame));
  };
  const headers = Object.entries(relay.headers ?? {}).map(
    ([name, value]) => [name, read(String(value), [...path, 'headers', name])] as const,
  );
  const target = relay.path === undefined ? null : read(relay.path, [...path, 'path']);
  return (frame) => ({
    kind: 'relayed',
    target: target === null ? null : checkTarget(target(frame)),
    headers: headers.flatMap(([name, value]) => [name, checkValue(name, value(frame))]),
    without,
  });
}

function checkTarget(target: string): string {
  return /^\/[^\s]*$/.test(target) ? target : fail(`the path for the upstream came out as ${JSON.stringify(target)}`);
}

function checkValue(name: string, value: string): string {
  return isHeaderValue(value) ? value : fail(`the header ${name} came out with characters a header cannot hold`);
}
