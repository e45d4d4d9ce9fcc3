/** Who sends a value: members that only the other side sends are left out. */
export type Direction = 'request' | 'response';
