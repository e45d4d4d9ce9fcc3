import { matchLike } from '@upsetter/core';
import { type ProxyTarget, renderHost } from './proxy-target.js';

/** Whether a host is heard: it is like one of the patterns (`*.harbour.test`, `tide.harbour.test:4690`); no pattern: all are. */
export function compileHostChoice(patterns: readonly string[]): (target: ProxyTarget) => boolean {
  if (patterns.length === 0) return () => true;
  const wanted = patterns.map((pattern) => pattern.toLowerCase());
  return (target) => {
    const full = renderHost(target);
    return wanted.some((pattern) => matchLike(target.host, pattern) || matchLike(full, pattern));
  };
}
