import type { Ask } from '@upsetter/demo/sessions';
import type { FastifyInstance } from 'fastify';

/** A made-up service with habits of its own, and two sessions of one shape with it. Each session fails when an answer is not right. */
export interface World {
  readonly habits: string;
  readonly create: () => FastifyInstance;
  readonly first: (ask: Ask) => Promise<void>;
  /** Other names, other ids, one more item, another order. */
  readonly second: (ask: Ask) => Promise<void>;
  /** Like the first in number and order, with other values. */
  readonly similar: (ask: Ask) => Promise<void>;
}
