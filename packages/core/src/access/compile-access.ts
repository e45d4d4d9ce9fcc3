import { compileAnswer } from '../answer/compile-answer.js';
import { createTextScope, type TextScope } from '../answer/compile-text.js';
import type { CompiledAnswer } from '../answer/compiled-answer.js';
import type { AccessDefinition, GuardedAccess } from '../definition/access.js';
import type { PathKey } from '../definition/yaml-source.js';
import { type NamesInScope, ONLY_THE_CALL } from '../expression/compile-context.js';
import { compileComparison } from '../matching/comparing/compile-comparison.js';
import type { RequestView } from '../request/request-view.js';
import type { ServiceKeys } from './service-keys.js';
import { type JwtKeys, verifyJwt } from './verify-jwt.js';

/** Why a call may not: 401 where the caller is not known, 403 where it is and may not all the same. */
export interface AccessRefusal {
  readonly status: 401 | 403;
  readonly reason: string;
  /** The value of `WWW-Authenticate` (RFC 9110, 11.6.1). */
  readonly challenge: string;
}

/** Null: it may. `nowMs`: of the lane's clock. */
type Guard = (request: RequestView, nowMs: number, keys: ServiceKeys | null) => AccessRefusal | null;

export interface CompiledAccess {
  readonly check: Guard;
  /** The file's own answer to who may not; null: a problem. */
  readonly refuse: CompiledAnswer | null;
}

type Report = TextScope['report'];

/** `algorithm`: what the service's own token endpoint signs by. */
export interface AccessScope {
  readonly vars: NamesInScope['vars'];
  readonly report: Report;
  readonly algorithm: string;
}

/** Who may call. Null: everybody. */
export function compileAccess(
  access: AccessDefinition | undefined,
  path: readonly PathKey[],
  scope: AccessScope,
): CompiledAccess | null {
  if (access === undefined || access === 'open') return null;
  const guards = [
    ...keyGuard(access),
    ...basicGuard(access),
    ...bearerGuard(access, path, scope),
    ...certificateGuard(access),
  ];
  const [first] = guards;
  const text = createTextScope(scope.report, { ...ONLY_THE_CALL, vars: scope.vars });
  return {
    refuse: access.refuse === undefined ? null : compileAnswer(access.refuse, [...path, 'refuse'], text),
    check:
      guards.length === 1 && first !== undefined
        ? first
        : (request, nowMs, keys) => checkAll(guards, request, nowMs, keys),
  };
}

/** One way in is enough; of several refusals, the one that knew who calls is told, else the first. */
function checkAll(
  guards: readonly Guard[],
  request: RequestView,
  nowMs: number,
  keys: ServiceKeys | null,
): AccessRefusal | null {
  const refusals: AccessRefusal[] = [];
  for (const guard of guards) {
    const refusal = guard(request, nowMs, keys);
    if (refusal === null) return null;
    refusals.push(refusal);
  }
  const told = refusals.find(({ status }) => status === 403) ?? refusals[0];
  return told === undefined ? null : { ...told, challenge: refusals.map(({ challenge }) => challenge).join(', ') };
}

function keyGuard({ key }: GuardedAccess): Guard[] {
  if (key === undefined) return [];
  const known = new Set(typeof key.is === 'string' ? [key.is] : key.is);
  const { header, query = '' } = key;
  const place = header === undefined ? `query ${query}` : `header ${header}`;
  const challenge = `Key ${header === undefined ? 'query' : 'header'}="${header ?? query}"`;
  const read = (request: RequestView): unknown =>
    header === undefined ? request.query(query) : request.header(header.toLowerCase());
  return [
    (request) => {
      const sent = read(request);
      if (sent === undefined) return refusal(`there is no key (${place})`, challenge);
      return known.has(String(sent)) ? null : refusal(`the key is not known (${place})`, challenge);
    },
  ];
}

function basicGuard({ basic }: GuardedAccess): Guard[] {
  if (basic === undefined) return [];
  const challenge = 'Basic realm="mock", charset="UTF-8"';
  return [
    (request) => {
      const sent = credentialsOf(request, 'basic');
      if (sent === null) return refusal('there are no basic credentials (header authorization)', challenge);
      const [user = '', ...password] = decodeBasic(sent).split(':');
      const isKnown = Object.hasOwn(basic, user) && basic[user] === password.join(':');
      return isKnown ? null : refusal('user or password is not known', challenge);
    },
  ];
}

function bearerGuard({ bearer }: GuardedAccess, path: readonly PathKey[], { report, algorithm }: AccessScope): Guard[] {
  if (bearer === undefined) return [];
  const { tokens = [], jwt } = bearer;
  const known = new Set(typeof tokens === 'string' ? [tokens] : tokens);
  const keys = jwt === undefined ? null : keysOf(jwt, algorithm);
  const checkClaims = jwt === undefined ? null : compileClaims(jwt, [...path, 'bearer', 'jwt'], report);
  return [
    (request, nowMs, service) => {
      const sent = credentialsOf(request, 'bearer');
      if (sent === null) return refusal('there is no bearer token (header authorization)', 'Bearer');
      if (jwt === undefined || keys === null)
        return known.has(sent) ? null : refusal('the token is not known', 'Bearer error="invalid_token"');
      const verified = verifyJwt(sent, keys, nowMs, service);
      if (verified.kind === 'invalid')
        return refusal(`the token is refused: ${verified.reason}`, 'Bearer error="invalid_token"');
      const wrong = checkClaims?.(verified.claims) ?? null;
      return wrong === null
        ? null
        : { status: 403, reason: `the token may not: ${wrong}`, challenge: 'Bearer error="insufficient_scope"' };
    },
  ];
}

function certificateGuard({ certificate }: GuardedAccess): Guard[] {
  if (certificate === undefined) return [];
  const names = certificate === true ? null : new Set([certificate.is].flat());
  return [
    ({ clientCertificate }) => {
      if (clientCertificate === null)
        return refusal('there is no client certificate that the mock trusts (listen.tls.clients)', 'Certificate');
      if (names === null || names.has(clientCertificate)) return null;
      const reason = `the client certificate is of ${clientCertificate}, who may not`;
      return { status: 403, reason, challenge: 'Certificate' };
    },
  ];
}

type Jwt = NonNullable<NonNullable<GuardedAccess['bearer']>['jwt']>;

function keysOf({ key = '', keys }: Jwt, algorithm: string): JwtKeys {
  if (keys === 'own') return { kind: 'own', algorithm };
  if (keys !== undefined) return { kind: 'public', keys: keys.keys };
  return key.includes('-----BEGIN ') ? { kind: 'public', keys: [key] } : { kind: 'shared', key };
}

/** Which claim is not as it has to be; null: all are. */
function compileClaims(
  { issuer, audience, claims }: Jwt,
  path: readonly PathKey[],
  report: Report,
): (claims: Readonly<Record<string, unknown>>) => string | null {
  const wanted = Object.entries(claims ?? {}).flatMap(([name, comparison]) => {
    const compiled = compileComparison(comparison, 'json', { text: null, at: [...path, 'claims', name] });
    if (compiled.kind === 'compiled') return [{ name, comparison: compiled.comparison }];
    report(compiled.refusal.message, [...path, 'claims', name, ...compiled.refusal.path]);
    return [];
  });
  return (sent) => {
    if (issuer !== undefined && sent['iss'] !== issuer) return `claim iss is not ${issuer}`;
    const { aud } = sent;
    if (audience !== undefined && aud !== audience && !(Array.isArray(aud) && aud.includes(audience)))
      return `claim aud is not ${audience}`;
    for (const { name, comparison } of wanted) {
      const { holds, forbids, every, wantsPresence, wantsAbsence } = comparison;
      const value = Object.hasOwn(sent, name) ? sent[name] : undefined;
      const isFit =
        value === undefined
          ? wantsAbsence || !wantsPresence
          : !wantsAbsence &&
            (holds?.(value, null) ?? true) &&
            !(forbids?.(value, null) ?? false) &&
            (every?.(value, null) ?? true);
      if (!isFit) return `claim ${name} is to be ${comparison.wanted}`;
    }
    return null;
  };
}

function refusal(reason: string, challenge: string): AccessRefusal {
  return { status: 401, reason, challenge };
}

/** What stands behind a scheme in `Authorization`; null: nothing does. */
function credentialsOf(request: RequestView, scheme: string): string | null {
  const sent = request.header('authorization') ?? '';
  return sent.slice(0, scheme.length + 1).toLowerCase() === `${scheme} ` ? sent.slice(scheme.length + 1).trim() : null;
}

function decodeBasic(text: string): string {
  try {
    return new TextDecoder().decode(Uint8Array.from(atob(text), (c) => c.charCodeAt(0)));
  } catch {
    return '';
  }
}
