import type { ResourceAction, ResourceDefinition } from '../definition/resource.js';
import type { Evaluate } from '../expression/frame.js';
import type { RowKey } from '../state/row-key.js';
import type { CheckRow } from './check-row.js';
import type { NewKeyMaker } from './new-key.js';
import type { QueryStyle } from './query-style.js';
import type { Relation } from './relations.js';
import type { SortKey } from './row-order.js';

/** How many rows come unasked, the most that can be asked for, and the number of the first page. */
export interface PageRules {
  readonly size: number;
  readonly most: number;
  readonly first: number;
}

/** A resource as its calls use it: everything of its definition read once. */
export interface CompiledResource {
  readonly name: string;
  readonly dataset: string;
  readonly key: RowKey;
  readonly definition: ResourceDefinition;
  readonly isJsonApi: boolean;
  readonly actions: readonly ResourceAction[];
  readonly query: QueryStyle;
  readonly page: PageRules;
  readonly sort: readonly SortKey[];
  readonly relations: ReadonlyMap<string, Relation>;
  /** Fields that rows are known to have; null: any may come. */
  readonly fields: ReadonlySet<string> | null;
  /** Fields whose texts in a path stand for numbers. */
  readonly numbers: ReadonlySet<string>;
  /** Query parameters that let callers in: they are no fields, and stand in no link. */
  readonly secrets: ReadonlySet<string>;
  readonly makeKey: NewKeyMaker;
  /** Values of fields that were not sent, and of those that every write sets. */
  readonly defaults: Evaluate | null;
  readonly stamp: Evaluate | null;
  readonly checkRow: CheckRow | null;
}

/** One of the paths of a resource: which fields its parameters are, by their places. */
export interface ResourcePath {
  /** Fields that the path of the list names: whose rows they are. */
  readonly owners: readonly string[];
  /** Fields that the path of a row names beyond those. */
  readonly keys: readonly string[];
}
