import { type Document, isMap, isScalar, isSeq, parseDocument, type YAMLMap } from 'yaml';
import { isReference, type ServiceText } from '../definition/beside/service-text.js';
import { TextEdit } from '../definition/text-edit.js';
import { AppError } from '../errors/app-error.js';
import { escapeTemplates } from '../expression/template.js';
import { headerOf } from '../traffic/exchange.js';
import { isSecretHeader } from '../traffic/mask.js';
import { answerAsHeard } from './answer-as-heard.js';
import type { TrialAnswer } from './trial-result.js';

/** A difference of a case, by its place: `status`, `header cache-control`, `json $.berth.quay`. */
export interface AdoptedPlace {
  readonly operation: string;
  readonly case: string;
  readonly at: string;
}

/**
 * A service file whose case answers at one place as the real implementation does; comments and all else stay. A status that
 * differs, or a body of another kind, takes the whole answer along. Fails with `case-unknown`, or with `wrong-use` where it
 * has to be changed by hand.
 */
export function adoptDifference(given: ServiceText, place: AdoptedPlace, got: TrialAnswer): ServiceText {
  const edit = new TextEdit(given.text);
  const { document } = edit;
  const own = findCase(document, place);
  const answer = own.get('answer');
  if (!isMap(answer)) throw byHand('the case has no answer that is a map');
  if (answer.has('turns')) throw byHand('the case answers in turns');
  const [kind = '', ...rest] = place.at.split(' ');
  const name = rest.join(' ');
  if (kind === 'header') adoptHeader(document, answer, name, got);
  else if (kind === 'json' && name !== '$') {
    const file = answer.get('json');
    if (typeof file === 'string' && isReference(file))
      return { text: given.text, files: { ...given.files, [file]: changeFile(given, file, name, got) } };
    adoptMember(answer.get('json', true), name, got, document);
  } else own.set('answer', document.createNode(answerAsHeard(got)));
  return { text: edit.write(), files: given.files };
}

function findCase(document: Document, place: AdoptedPlace): YAMLMap {
  const cases = document.getIn(['operations', place.operation, 'cases']);
  const found = isSeq(cases) ? cases.items.find((item) => isMap(item) && item.get('case') === place.case) : undefined;
  if (!isMap(found)) throw new AppError('case-unknown', `${place.operation} has no case ${place.case}`);
  return found;
}

function byHand(reason: string): AppError {
  return new AppError('wrong-use', `${reason}: change it by hand`);
}

function adoptHeader(document: Document, answer: YAMLMap, name: string, got: TrialAnswer): void {
  if (isSecretHeader(name)) throw byHand(`${name} is a secret`);
  const headers = answer.get('headers');
  const known = isMap(headers)
    ? headers.items.find(({ key }) => isScalar(key) && String(key.value).toLowerCase() === name)?.key
    : undefined;
  const value = headerOf(got.headers, name);
  if (value !== null) {
    const own = document.createNode(escapeTemplates(value));
    if (!isMap(headers)) answer.set('headers', document.createNode({ [name]: escapeTemplates(value) }));
    else headers.set(known ?? name, own);
    return;
  }
  if (!isMap(headers) || known === undefined) throw byHand(`the case does not set ${name} itself`);
  headers.delete(known);
  if (headers.items.length === 0) answer.delete('headers');
}

function adoptMember(json: unknown, path: string, got: TrialAnswer, document: Document): void {
  const steps = stepsOf(path);
  const value = valueAt(parseBody(got), steps);
  let here = json;
  for (const step of steps.slice(0, -1)) here = isMap(here) || isSeq(here) ? here.get(step, true) : undefined;
  const last = steps.at(-1) ?? '';
  if (!isMap(here) && !isSeq(here)) throw byHand(`an expression makes what stands at ${path}`);
  if (value === undefined) here.delete(last);
  else here.set(last, document.createNode(escapeTemplates(value)));
}

/** The same in a body that stands in a file of its own. */
function changeFile({ files }: ServiceText, name: string, path: string, got: TrialAnswer) {
  const file = files[name];
  if (file === undefined || file.kind !== 'text') throw byHand(`${name} cannot be changed`);
  const document = parseDocument(file.content);
  adoptMember(document.contents, path, got, document);
  return { kind: 'text' as const, content: `${JSON.stringify(document.toJS(), null, 2)}\n` };
}

/** `$.berths[0].quay` -> berths, 0, quay */
function stepsOf(path: string): (string | number)[] {
  const steps = path.matchAll(/\.([A-Za-z_]\w*)|\[(\d+)\]|\['([^']*)'\]/g);
  return [...steps].map(([, name, index, quoted]) => name ?? quoted ?? Number(index));
}

function parseBody({ body }: TrialAnswer): unknown {
  try {
    return JSON.parse(body ?? '');
  } catch {
    return undefined;
  }
}

function valueAt(value: unknown, steps: readonly (string | number)[]): unknown {
  let here = value;
  for (const step of steps) {
    if (here === null || typeof here !== 'object' || !Object.hasOwn(here, step)) return undefined;
    here = (here as Record<string | number, unknown>)[step];
  }
  return here;
}
