import { isJsonMap } from '../definition/json-map.js';
import { createSecretWords } from '../traffic/secret-words.js';
import { type Credential, readCredentials, setCookiesOf } from './credentials.js';
import type { Heard } from './heard.js';
import { eachLeaf, memberExpression } from './leaves.js';

/** Who calls, where a session shows it: credentials that one answer gave and later calls carry. */
export interface Callers {
  /** The place of conditions: `state callers[${call.headers.authorization}]`. */
  readonly place: string;
  /** How expressions read it: `state.callers[call.headers.authorization]`. */
  readonly read: string;
  /** What callers are called by: the field that they named themselves with. */
  readonly name: string;
  /** Who made a call; null when that is not known (any more). */
  readonly callerOf: (heard: Heard) => string | null;
  /** What calls that begin or end a caller's session set, by their positions. */
  readonly steps: ReadonlyMap<number, unknown>;
}

/** The state that keeps who was given which credential. */
export const CALLERS = 'callers';

/** One credential of the session: where it was given, to whom, and until when it held. */
interface Pass {
  readonly maker: Heard;
  readonly who: string;
  readonly step: unknown;
  end: Heard | null;
}

/** Finds who calls; null when no answer gave a credential to someone who said who they are. */
export function findCallers(session: readonly Heard[]): Callers | null {
  const byPlace = new Map<string, { read: string; uses: { heard: Heard; credential: Credential }[] }>();
  for (const heard of session) {
    for (const credential of readCredentials(heard)) {
      const place = byPlace.get(credential.read) ?? { read: credential.read, uses: [] };
      byPlace.set(credential.read, place);
      place.uses.push({ heard, credential });
    }
  }
  if (byPlace.size === 0) return null;
  const given = indexGiven(session);
  const found = [...byPlace.values()].flatMap(({ read, uses }) => toCallers(read, uses, given) ?? []);
  return found.sort((a, b) => b.steps.size - a.steps.size)[0] ?? null;
}

function toCallers(
  read: string,
  uses: readonly { readonly heard: Heard; readonly credential: Credential }[],
  given: ReadonlyMap<string, Given>,
): Callers | null {
  const passes = new Map<string, Pass>();
  let name = '';
  for (const { heard, credential } of uses) {
    if (passes.has(credential.value)) continue;
    const pass = findPass(credential, given, heard.position);
    if (pass === null) continue;
    passes.set(credential.value, pass);
    name = pass.name;
  }
  if (passes.size === 0) return null;
  const steps = new Map<number, unknown>([...passes.values()].map(({ maker, step }) => [maker.position, step]));
  for (const [value, pass] of passes) {
    pass.end = findEnd(uses.filter(({ credential }) => credential.value === value).map(({ heard }) => heard));
    if (pass.end !== null) steps.set(pass.end.position, { set: { [`${CALLERS}[\${${read}}]`]: null } });
  }
  const passOf = new Map(uses.map(({ heard, credential }) => [heard.position, passes.get(credential.value) ?? null]));
  return {
    place: `state ${CALLERS}[\${${read}}]`,
    read: `state.${CALLERS}[${read}]`,
    name,
    callerOf: ({ position }) => {
      const pass = passOf.get(position) ?? null;
      if (pass === null || position <= pass.maker.position) return null;
      return pass.end === null || position <= pass.end.position ? pass.who : null;
    },
    steps,
  };
}

/** Where a value was first given, and how it is read from that answer. */
interface Given {
  readonly maker: Heard;
  readonly read: string;
}

/** Shorter values are no credentials. */
const SHORTEST = 6;

/** What answers to writes gave, each value where it was given first; cookies by name and value. */
function indexGiven(session: readonly Heard[]): ReadonlyMap<string, Given> {
  const given = new Map<string, Given>();
  const keep = (id: string, maker: Heard, read: string): void => {
    if (!given.has(id)) given.set(id, { maker, read });
  };
  for (const maker of session) {
    if (!maker.isWrite || !maker.isSuccess) continue;
    const [cookie, ...others] = setCookiesOf(maker);
    if (cookie !== undefined && others.length === 0)
      keep(`${cookie.name}=${cookie.value}`, maker, "answer.headers['set-cookie'].split(';')[0].split('=')[1]");
    eachLeaf(maker.answerJson, (value, steps) => {
      if (typeof value === 'string' && value.length >= SHORTEST)
        keep(value, maker, `answer.json${memberExpression(steps)}`);
    });
  }
  return given;
}

/** The answer that gave the credential, and who had asked for it. */
function findPass(
  { token, scheme, cookie }: Credential,
  given: ReadonlyMap<string, Given>,
  before: number,
): (Pass & { readonly name: string }) | null {
  const found = given.get(cookie === null ? token : `${cookie}=${token}`);
  const who = found === undefined || found.maker.position >= before ? null : readName(found.maker);
  if (found === undefined || who === null) return null;
  const step = { set: { [`${CALLERS}[${scheme}\${${found.read}}]`]: `\${${who.read}}` } };
  return { maker: found.maker, who: who.value, name: who.name, step, end: null };
}

const { isSecretName } = createSecretWords();
const NAMING = /user|name|login|mail|account|who|id$/i;

/** What the one who asked for a credential called themselves: a field of what was sent that is no secret. */
function readName({ sentJson, form }: Heard): { read: string; name: string; value: string } | null {
  const json = isJsonMap(sentJson) ? Object.entries(sentJson) : [];
  const fields = [
    ...json.map(([name, value]) => ({ read: `call.json${memberExpression([name])}`, name, value })),
    ...[...form].map(([name, value]) => ({ read: `call.form${memberExpression([name])}`, name, value })),
  ].filter(
    (field): field is { read: string; name: string; value: string } =>
      typeof field.value === 'string' && field.value !== '' && !isSecretName(field.name),
  );
  return fields.find(({ name }) => NAMING.test(name)) ?? fields[0] ?? null;
}

const REFUSED = new Set([401, 403]);

/** The write after which the credential was refused, and never taken again. */
function findEnd(uses: readonly Heard[]): Heard | null {
  const last = uses.findLast(({ exchange }) => !REFUSED.has(exchange.status));
  if (last === undefined || !last.isWrite || !last.isSuccess || last === uses.at(-1)) return null;
  return last;
}
