import type { CompiledService, PublicKey } from '@upsetter/core';
import { readPublicKey } from '@upsetter/engine';
import { FileMistake } from './file-mistake.js';

type Access = CompiledService['definition']['access'];

/** Keys that tokens are verified with have to be keys. Fails with `file-refused` at the one that is none. */
export function refuseBrokenKeys({ definition: { access, operations } }: CompiledService): void {
  refuseIn(access, ['access']);
  for (const [name, operation] of Object.entries(operations))
    refuseIn(operation.access, ['operations', name, 'access']);
}

function refuseIn(access: Access, place: readonly string[]): void {
  if (access === undefined || access === 'open') return;
  const { key, keys } = access.bearer?.jwt ?? {};
  const given: [(string | number)[], PublicKey][] = [
    ...(key?.includes('-----BEGIN ') === true ? [[['key'], key] as [string[], PublicKey]] : []),
    ...(keys === undefined || keys === 'own'
      ? []
      : keys.keys.map((own, i): [(string | number)[], PublicKey] => [['keys', 'keys', i], own])),
  ];
  for (const [path, own] of given)
    if (readPublicKey(own) === null)
      throw new FileMistake([...place, 'bearer', 'jwt', ...path], 'it is no public key that can be read');
}
