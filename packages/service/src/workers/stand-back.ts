import { readlinkSync } from 'node:fs';
import { constants, setPriority } from 'node:os';

/** On Linux a thread has a priority of its own: mocks and delays go before what this one does. */
export function standBack(): void {
  try {
    const thread = Number(readlinkSync('/proc/thread-self').split('/').at(-1));
    setPriority(thread, constants.priority.PRIORITY_BELOW_NORMAL);
  } catch {
    // elsewhere it takes its share like any thread
  }
}
