/** A body for reading: JSON indented, everything else as it is. */
export function prettyBody(body: string): string {
  if (body === '') return '(no body)';
  try {
    return JSON.stringify(JSON.parse(body), null, 2);
  } catch {
    return body;
  }
}
