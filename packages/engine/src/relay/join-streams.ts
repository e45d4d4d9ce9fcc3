import type { Duplex } from 'node:stream';

/** What comes from one goes to the other, both ways; each side ends with the other. */
export function joinStreams(a: Duplex, b: Duplex): void {
  a.pipe(b);
  b.pipe(a);
  for (const [from, to] of [
    [a, b],
    [b, a],
  ] as const) {
    from.on('error', () => to.destroy());
    from.on('close', () => to.destroy());
  }
}
