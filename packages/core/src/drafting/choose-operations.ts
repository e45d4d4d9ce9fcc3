import { AppError } from '../errors/app-error.js';
import { matchLike } from '../matching/comparing/like.js';

/** Which operations of a contract are drafted; terms are `tag:bookings`, `/berths/*`, `DELETE /berths/*`, `list*`. */
export interface OperationChoice {
  readonly only: readonly string[];
  readonly without: readonly string[];
}

/** What an operation of a contract is chosen by. */
interface Choosable {
  readonly id: string | null;
  readonly method: string;
  readonly path: string;
  readonly tags: readonly string[];
}

/** The operations that were chosen. Fails with `wrong-use` when a term means none of them. */
export function chooseOperations<T extends Choosable>(all: readonly T[], choice: OperationChoice): T[] {
  const only = choice.only.map((term) => parseTerm(term, all));
  const without = choice.without.map((term) => parseTerm(term, all));
  return all.filter(
    (operation) =>
      (only.length === 0 || only.some((fits) => fits(operation))) && !without.some((fits) => fits(operation)),
  );
}

type Fits = (operation: Choosable) => boolean;

function parseTerm(term: string, all: readonly Choosable[]): Fits {
  const fits = compileTerm(term.trim());
  if (all.some(fits)) return fits;
  const tags = [...new Set(all.flatMap(({ tags: own }) => own))];
  const known = tags.length === 0 ? '' : `; the tags are ${tags.slice(0, 12).join(', ')}`;
  throw new AppError(
    'wrong-use',
    `no operation of the contract is meant by ${term}: write tag:NAME, /path/*, METHOD /path/* or an operation's own name${known}`,
  );
}

function compileTerm(term: string): Fits {
  const tag = /^tag:(.*)$/.exec(term)?.[1];
  if (tag !== undefined) return ({ tags }) => tags.some((own) => matchLike(own, tag));
  const [, method, path] = /^(?:([A-Za-z]+)\s+)?(\/.*)$/.exec(term) ?? [];
  if (path !== undefined)
    return (operation) =>
      (method === undefined || operation.method === method.toUpperCase()) && matchLike(operation.path, path);
  return ({ id }) => id !== null && matchLike(id, term);
}
