import { compileData, toEvaluate } from '../answer/compile-data.js';
import { createTextScope, type TextScope } from '../answer/compile-text.js';
import type { CompiledAnswer } from '../answer/compiled-answer.js';
import type { RenderedAnswer } from '../answer/rendered-answer.js';
import { parseDuration } from '../definition/duration.js';
import type { TokensDefinition } from '../definition/tokens.js';
import type { PathKey } from '../definition/yaml-source.js';
import { type NamesInScope, ONLY_THE_CALL } from '../expression/compile-context.js';
import { type Evaluate, type Frame, fail } from '../expression/frame.js';
import type { ValueMap } from '../expression/value.js';
import type { AddedCase } from '../matching/add-operations.js';
import type { CompiledCase } from '../matching/compile-case.js';
import { uuidAt } from '../state/draw.js';
import { readTokenCall, type TokenCall, type TokenRefusal } from './read-token-call.js';

interface CompiledClient {
  readonly secret: string;
  readonly scope: readonly string[];
  readonly claims: Evaluate | null;
}

const CASE = 'tokens';
const USUAL_MS = 3_600_000;
const MS_PER_SECOND = 1000;
export const USUAL_ALGORITHM = 'ES256';

/** The token endpoint of a service, and where its public keys are. */
export function compileTokens(
  definition: TokensDefinition,
  path: readonly PathKey[],
  vars: NamesInScope['vars'],
  report: TextScope['report'],
): readonly AddedCase[] {
  const scope = createTextScope(report, { ...ONLY_THE_CALL, vars });
  const clients = new Map(
    Object.entries(definition.clients).map(([id, own]): [string, CompiledClient] => {
      const client = typeof own === 'string' ? { secret: own } : own;
      const at = [...path, 'clients', id, 'claims'];
      const claims = client.claims === undefined ? null : toEvaluate(compileData(client.claims, at, scope));
      return [id, { secret: client.secret, scope: client.scope ?? [], claims }];
    }),
  );
  const position = scope.takePosition();
  const issue = (frame: Frame): RenderedAnswer => {
    const call = readTokenCall(frame.request, clients);
    return call.kind === 'refused' ? answerRefusal(call) : answerToken(definition, call, frame, position);
  };
  const keys = (frame: Frame): RenderedAnswer =>
    answerJson(200, { keys: keysOf(frame).publicKeys(definition.algorithm ?? USUAL_ALGORITHM) }, []);
  return [
    addCase('tokens.issue', `POST ${definition.at}`, issue, [...path, 'at']),
    ...(definition.keys === undefined
      ? []
      : [addCase('tokens.keys', `GET ${definition.keys}`, keys, [...path, 'keys'])]),
  ];
}

function answerToken(
  { issuer, audience, lasts, algorithm = USUAL_ALGORITHM }: TokensDefinition,
  { client, id, scope }: Extract<TokenCall<CompiledClient>, { kind: 'known' }>,
  frame: Frame,
  position: number,
): RenderedAnswer {
  const lastsMs = lasts === undefined ? USUAL_MS : (parseDuration(lasts) ?? USUAL_MS);
  const issuedAt = Math.floor(frame.nowMs / MS_PER_SECOND);
  const seconds = Math.round(lastsMs / MS_PER_SECOND);
  const claims = {
    ...(issuer === undefined ? {} : { iss: issuer }),
    ...(audience === undefined ? {} : { aud: audience }),
    sub: id,
    client_id: id,
    iat: issuedAt,
    exp: issuedAt + seconds,
    jti: uuidAt(frame.drawHash, position),
    ...(scope.length === 0 ? {} : { scope: scope.join(' ') }),
    ...(client.claims?.(frame) as ValueMap | undefined),
  };
  const token = {
    access_token: keysOf(frame).sign(claims, algorithm),
    token_type: 'Bearer',
    expires_in: seconds,
    ...(scope.length === 0 ? {} : { scope: scope.join(' ') }),
  };
  return answerJson(200, token, ['cache-control', 'no-store']);
}

/** Source: RFC 6749, 5.2. */
function answerRefusal({ status, error, description }: TokenRefusal): RenderedAnswer {
  const challenge = status === 401 ? ['www-authenticate', 'Basic realm="tokens"'] : [];
  return answerJson(status, { error, error_description: description }, ['cache-control', 'no-store', ...challenge]);
}

function answerJson(status: number, body: unknown, headers: readonly string[]): RenderedAnswer {
  return { status, headers: ['content-type', 'application/json', ...headers], body: JSON.stringify(body) };
}

function keysOf({ lane }: Frame) {
  return lane.keys ?? fail('there is nothing here that can sign tokens');
}

function addCase(
  name: string,
  on: string,
  render: (frame: Frame) => RenderedAnswer,
  path: readonly PathKey[],
): AddedCase {
  return { name, on, case: buildCase({ constant: null, render }), givesTokens: true, path };
}

function buildCase(answer: CompiledAnswer): CompiledCase {
  return {
    name: CASE,
    definition: { case: CASE, answer: {} },
    added: { from: 'the token endpoint', answers: [{ status: 200 }, { status: 400 }, { status: 401 }] },
    conditions: [],
    lets: null,
    answer,
    turns: null,
    steps: null,
    callbacks: null,
    exact: [],
  };
}
