import { AppError } from '../errors/app-error.js';
import { DRAFT_LEVELS, type DraftLevel } from './draft.js';

/** What the user overruled, by what it concerns. */
export interface Overrules {
  readonly paths: ReadonlyMap<string, string>;
  readonly noRecords: ReadonlySet<string>;
  readonly levels: ReadonlyMap<string, DraftLevel>;
  /** Whether who calls is not to be followed. */
  readonly noCallers: boolean;
}

/** Overrules by the ids of decisions. Fails with `wrong-use` for an id or a value that decides nothing. */
export function readOverrules(given: ReadonlyMap<string, string>): Overrules {
  const paths = new Map<string, string>();
  const noRecords = new Set<string>();
  const levels = new Map<string, DraftLevel>();
  let noCallers = false;
  for (const [id, value] of given) {
    const [group = '', ...rest] = id.split(':');
    const name = rest.join(':');
    if (group === 'path' && name.startsWith('/') && (value === 'literal' || value === 'value')) paths.set(name, value);
    else if (group === 'records' && name !== '' && value === 'no') noRecords.add(name);
    else if (group === 'operation' && isLevel(value)) levels.set(name, value);
    else if (id === 'callers' && value === 'no') noCallers = true;
    else
      throw new AppError(
        'wrong-use',
        `${id}=${value} overrules nothing: write path:/berths/{}=literal, path:/berths/free=value, records:NAME=no, callers=no or operation:NAME=${DRAFT_LEVELS.join('|')}`,
      );
  }
  return { paths, noRecords, levels, noCallers };
}

function isLevel(value: string): value is DraftLevel {
  return (DRAFT_LEVELS as readonly string[]).includes(value);
}
