const NAME = /^[!#$%&'*+\-.^_`|~0-9A-Za-z]+$/;
// What node's own check accepts: RFC 9110 field values, as Latin-1.
const VALUE = /^[\t\x20-\x7e\x80-\xff]*$/;

/** Whether HTTP has room for a header of this name (RFC 9110, 5.1). */
export function isHeaderName(name: string): boolean {
  return NAME.test(name);
}

/** Whether a header can hold this value (RFC 9110, 5.5): no line breaks, nothing beyond Latin-1. */
export function isHeaderValue(value: string): boolean {
  return VALUE.test(value);
}
