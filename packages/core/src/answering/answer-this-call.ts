import { isMap, isSeq, type YAMLSeq } from 'yaml';
import { TextEdit } from '../definition/text-edit.js';
import { operationName } from '../drafting/operation-name.js';
import { uniqueName } from '../drafting/unique-name.js';
import { AppError } from '../errors/app-error.js';
import type { FoundValue } from '../explain/found-value.js';
import type { CompiledOperation, CompiledService } from '../matching/compile-service.js';
import { findOperation, matchPath } from '../matching/find-operation.js';
import type { RequestView } from '../request/request-view.js';
import { fewestConditions } from './fewest-conditions.js';

/** A call that is to be answered by a case of its own. */
export interface CallToAnswer {
  readonly request: RequestView;
  readonly found: readonly FoundValue[] | null;
  /** The case that answered it; null: none did. */
  readonly caseName: string | null;
  /** The answer as it stands in a service file. */
  readonly answer: unknown;
}

/** The file with the case in it, and where it is. */
export interface AnsweredCall {
  readonly text: string;
  readonly operation: string;
  readonly case: string;
}

/**
 * A service file with a case for one call, with the fewest conditions that fit: before the case that answered it, else at the
 * end of its operation, else in an operation of its own. Comments stay. Fails with `request-refused` for a call that no
 * address of a file leads to.
 */
export function answerThisCall(text: string, service: CompiledService, call: CallToAnswer): AnsweredCall {
  const { request } = call;
  const destination = findOperation(service, request);
  if (destination.kind === 'shared')
    throw new AppError('request-refused', 'a call that several operations share is answered in the file itself');
  const edit = new TextEdit(text);
  const { document } = edit;
  const known = destination.kind === 'operation' ? destination.operation : null;
  const conditions = known === null ? {} : fewestConditions(service, known, request, call.found);
  const taken = new Set(known?.cases.map(({ name }) => name) ?? []);
  const name = uniqueName(nameFor(conditions), taken);
  const own = {
    case: name,
    ...(Object.keys(conditions).length === 0 ? {} : { when: conditions }),
    answer: call.answer,
  };
  const cases = known === null ? null : document.getIn(['operations', known.name, 'cases']);
  let operation = known?.name ?? '';
  if (known !== null && isSeq(cases)) putCase(cases, document.createNode(own), placeBefore(known, call.caseName));
  else {
    const on = known?.on ?? `${request.method} ${templateOf(service, request, destination.kind)}`;
    operation = operationName(on, new Set(service.operations.map((item) => item.name)));
    const made = document.createNode({ on, cases: [own] });
    if (isMap(document.get('operations'))) document.setIn(['operations', operation], made);
    else document.set('operations', document.createNode({ [operation]: { on, cases: [own] } }));
  }
  return { text: edit.write(), operation, case: name };
}

/** Where a case has to stand to go before the one that answered; null: at the end. */
function placeBefore({ cases }: CompiledOperation, caseName: string | null): number | null {
  const at = cases.findIndex(({ name, added }) => name === caseName && added === null);
  return at < 0 ? null : at;
}

function putCase(cases: YAMLSeq, own: unknown, at: number | null): void {
  if (at === null) cases.items.push(own);
  else cases.items.splice(at, 0, own);
  // Braces of one line would hide what comes with it.
  if (cases.items.length > 1 && cases.flow === true) cases.flow = false;
}

const LONGEST_NAME = 60;

function nameFor(conditions: Readonly<Record<string, unknown>>): string {
  const words = Object.values(conditions).map(String).join(', ');
  return words === '' ? 'answered' : words.slice(0, LONGEST_NAME);
}

/** The template of the path where other methods have one; else the path as it is. */
function templateOf(service: CompiledService, request: RequestView, kind: string): string {
  if (kind === 'other-method') {
    const own: CompiledOperation | undefined = service.operations.find(({ address }) => {
      const match = matchPath(service, address.method, request);
      return match.kind === 'found' && match.value.some((item) => item.address === address);
    });
    if (own !== undefined) return own.address.template;
  }
  return request.path.replaceAll('{', '%7B').replaceAll('}', '%7D');
}
