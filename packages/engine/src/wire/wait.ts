/** A timer may fire up to a millisecond early and is coarse: aim short of the moment, then look again. */
const COARSE_MS = 1;

/** Calls `then` once `ms` have passed, never before. Returns what cancels it. */
export function waitPrecisely(ms: number, then: () => void): () => void {
  const dueMs = performance.now() + ms;
  let timer: NodeJS.Timeout;
  const look = (): void => {
    const leftMs = dueMs - performance.now();
    if (leftMs <= 0) then();
    else timer = setTimeout(look, Math.max(COARSE_MS, Math.floor(leftMs)));
  };
  timer = setTimeout(look, Math.max(0, Math.floor(ms)));
  return () => clearTimeout(timer);
}
