import type { SoapOn } from '../../matching/path-template.js';
import type { SoapOperation } from './read-soap-operations.js';
import { splitName } from './xml-tree.js';

/** What tells an operation from the others at its path: its element, and its action where another one has the same or it has none. */
export function soapOnOf({ name, path, input, action }: SoapOperation, all: readonly SoapOperation[]): SoapOn {
  const local = input === null ? name : splitName(input.element)[1];
  const hasTwin = all.some(
    (other) => other.name !== name && other.path === path && other.input?.element === input?.element,
  );
  return {
    soap: name,
    at: path,
    ...(local === name ? {} : { element: local }),
    ...(input === null || hasTwin ? { action } : {}),
  };
}
