import { AppError, type CompiledService, type PublicKey } from '@upsetter/core';
import { readPublicKey } from '@upsetter/engine';

type Access = CompiledService['definition']['access'];

/** Keys that tokens are verified with have to be keys. Fails with `request-refused`, and says which is none. */
export function refuseBrokenKeys({ definition: { access, operations } }: CompiledService): void {
  refuseIn(access, 'access');
  for (const [name, operation] of Object.entries(operations)) refuseIn(operation.access, `operations.${name}.access`);
}

function refuseIn(access: Access, place: string): void {
  if (access === undefined || access === 'open') return;
  const { key, keys } = access.bearer?.jwt ?? {};
  const given: [string, PublicKey][] = [
    ...(key?.includes('-----BEGIN ') === true ? [['key', key] as [string, PublicKey]] : []),
    ...(keys === undefined || keys === 'own'
      ? []
      : keys.keys.map((own, i): [string, PublicKey] => [`keys.keys[${i}]`, own])),
  ];
  for (const [name, own] of given)
    if (readPublicKey(own) === null)
      throw new AppError('request-refused', `${place}.bearer.jwt.${name}: it is no public key that can be read`);
}
