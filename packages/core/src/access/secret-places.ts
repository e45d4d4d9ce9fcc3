import type { AccessDefinition } from '../definition/access.js';
import type { ServiceFile } from '../definition/service-file.js';
import { NO_SECRETS, type SecretPlaces } from '../traffic/mask.js';

/** Where calls of a service carry the keys that let them in. */
export function findSecretPlaces({ access, operations }: ServiceFile): SecretPlaces {
  const all = [access, ...Object.values(operations).map((operation) => operation.access)];
  const keys = all.flatMap((own: AccessDefinition | undefined) =>
    own === undefined || own === 'open' || own.key === undefined ? [] : [own.key],
  );
  if (keys.length === 0) return NO_SECRETS;
  const names = (place: 'header' | 'query') => new Set(keys.flatMap((key) => key[place]?.toLowerCase() ?? []));
  return { headers: names('header'), queries: names('query') };
}
