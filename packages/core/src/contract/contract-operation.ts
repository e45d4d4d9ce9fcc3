import type { ContractNode } from './contract.js';

/** One operation of a contract, the same whichever dialect it is written in. */
export interface ContractOperation {
  /** `GET` */
  readonly method: string;
  /** The path template, the server's base path before it: `/harbour/berths/{berthId}`. */
  readonly path: string;
  readonly id: string | null;
  readonly title: string | null;
  readonly tags: readonly string[];
  readonly parameters: readonly ContractParameter[];
  /** What a caller sends; null: nothing is said of it. */
  readonly body: ContractBody | null;
  readonly responses: readonly ContractResponse[];
  /** Alternatives, each a list of schemes that must all be met; empty: no credentials are asked for. */
  readonly security: readonly (readonly SecurityScheme[])[];
  readonly node: ContractNode;
}

export interface ContractParameter {
  readonly name: string;
  readonly place: 'path' | 'query' | 'header' | 'cookie';
  readonly isRequired: boolean;
  readonly schema: ContractNode | null;
  readonly examples: readonly NamedExample[];
  readonly node: ContractNode;
}

export interface ContractBody {
  readonly isRequired: boolean;
  readonly media: readonly ContractMedia[];
  readonly node: ContractNode;
}

export interface ContractMedia {
  readonly type: string;
  readonly schema: ContractNode | null;
  readonly examples: readonly NamedExample[];
}

export interface ContractHeader {
  readonly name: string;
  readonly isRequired: boolean;
  readonly schema: ContractNode | null;
  readonly examples: readonly NamedExample[];
}

export interface ContractResponse {
  /** `200`, `2XX`, `default`. */
  readonly code: string;
  readonly media: readonly ContractMedia[];
  readonly headers: readonly ContractHeader[];
  readonly node: ContractNode;
}

export interface SecurityScheme {
  /** Where the credential is sent: `header authorization`, `query key`, `cookie sid`; null where it is not in the call. */
  readonly place: string | null;
  /** What the credential begins with there: `basic ` or `bearer `, in any case; null: anything. */
  readonly prefix: string | null;
}

/** An example; the same name in parameters, body and answer means that they belong together. */
export interface NamedExample {
  readonly name: string | null;
  readonly value: unknown;
}
