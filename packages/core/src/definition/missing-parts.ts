import type { AccessDefinition } from './access.js';
import type { Answer } from './answer.js';
import type { ListenDefinition } from './listen.js';
import type { PathKey } from './yaml-source.js';

/** What of a service file other parts of it rely on. */
interface ReliedParts {
  readonly strays?: string | undefined;
  readonly upstream?: string | undefined;
  readonly tokens?: unknown;
  readonly listen?: ListenDefinition | undefined;
  readonly access?: AccessDefinition | undefined;
  readonly operations: Readonly<Record<string, GuardedCases>>;
}

interface GuardedCases {
  readonly access?: AccessDefinition | undefined;
  readonly cases: readonly { readonly answer: Answer }[];
}

export interface MissingPart {
  readonly path: readonly PathKey[];
  readonly message: string;
}

/** Parts of a service file that need another one which is not there. */
export function findMissingParts(file: ReliedParts): MissingPart[] {
  const { strays = 'answer', upstream, operations } = file;
  const missing = [
    ...missingForAccess(file, file.access, []),
    ...Object.entries(operations).flatMap(([name, { access }]) => missingForAccess(file, access, ['operations', name])),
  ];
  if (upstream !== undefined) return missing;
  if (strays !== 'answer') {
    const message = `\`strays: ${strays}\` needs an \`upstream\`: the real service that strays are relayed to`;
    missing.push({ path: ['strays'], message });
  }
  for (const [name, { cases }] of Object.entries(operations))
    cases.forEach(({ answer }, i) => {
      const message = '`relay` needs an `upstream`: the real service that the call goes to';
      if (isRelayed(answer)) missing.push({ path: ['operations', name, 'cases', i, 'answer'], message });
    });
  return missing;
}

function missingForAccess(
  { listen, tokens }: ReliedParts,
  access: AccessDefinition | undefined,
  path: readonly PathKey[],
): MissingPart[] {
  if (access === undefined || access === 'open') return [];
  const missing: MissingPart[] = [];
  const tls = listen?.tls;
  const asksClients = tls !== undefined && tls !== 'auto' && tls.clients !== undefined;
  if (access.certificate !== undefined && !asksClients)
    missing.push({
      path: [...path, 'access', 'certificate'],
      message: '`certificate` needs `listen: { tls: { clients: {} } }`: callers are asked for one there',
    });
  if (access.bearer?.jwt?.keys === 'own' && tokens === undefined)
    missing.push({
      path: [...path, 'access', 'bearer', 'jwt', 'keys'],
      message: '`keys: own` needs `tokens`: the endpoint that signs with them',
    });
  return missing;
}

/** Whether an answer, or a turn of it, is the upstream's. */
export function isRelayed({ relay, turns }: Answer): boolean {
  return relay !== undefined || turns?.list.some((turn) => turn.relay !== undefined) === true;
}
