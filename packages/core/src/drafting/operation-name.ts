import { uniqueName } from './unique-name.js';

const VERBS: Readonly<Record<string, string>> = {
  GET: 'read',
  POST: 'post',
  PUT: 'put',
  PATCH: 'patch',
  DELETE: 'delete',
  HEAD: 'head',
};

/** A name for `GET /tides/{port}`: `readTidesPort`; unique among those taken, which it joins. */
export function operationName(on: string, taken: Set<string>): string {
  const [method = '', path = ''] = on.split(' ');
  const words = path.split(/[^A-Za-z0-9]+/).filter((word) => word !== '');
  const verb = VERBS[method] ?? method.toLowerCase();
  const base = [verb, ...words.map((word) => word[0]?.toUpperCase() + word.slice(1))].join('') || 'root';
  const start = words.length === 0 ? `${verb}Root` : base;
  return uniqueName(start, taken, '');
}
