import type { ServiceNote } from '@upsetter/core';
import { paint } from './terminal.js';

/** Something to be known of a service that is no mistake. */
export function renderNote({ operation, case: name, message }: ServiceNote): string {
  return `  ${paint.warn('note')}  ${operation}${name === null ? '' : ` / ${name}`}  ${message}`;
}
