/** Smallest files of the types that people show or open, in base64. */
const BYTES_OF: Readonly<Record<string, string>> = {
  'image/png': 'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNkYPhfDwAChwGA60e6kgAAAABJRU5ErkJggg==',
  'image/gif': 'R0lGODlhAQABAIAAAAAAAP///yH5BAEAAAAALAAAAAABAAEAAAIBRAA7',
  'image/svg+xml': btoa('<svg xmlns="http://www.w3.org/2000/svg" width="1" height="1"/>'),
  'application/zip': 'UEsFBgAAAAAAAAAAAAAAAAAAAAAAAA==',
  'application/pdf': btoa(
    '%PDF-1.4\n1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj\n2 0 obj<</Type/Pages/Kids[3 0 R]/Count 1>>endobj\n3 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 72 72]>>endobj\ntrailer<</Root 1 0 R>>\n',
  ),
};

/** What a range of types stands for: `image/*` is a picture. */
const OF_RANGE: Readonly<Record<string, string>> = {
  'image/*': 'image/png',
  '*': 'application/octet-stream',
  '*/*': 'application/octet-stream',
  'application/*': 'application/octet-stream',
};

/** A file that stands for one of a type that nothing can be made up of: its type, and what is in it. */
export interface StandIn {
  readonly type: string;
  readonly base64: string;
}

export function standInFor(mediaType: string): StandIn {
  const bare = mediaType.split(';', 1)[0]?.trim().toLowerCase() ?? '';
  const type = OF_RANGE[bare] ?? (bare.endsWith('/*') ? bare.replace('*', 'octet-stream') : bare);
  return { type, base64: BYTES_OF[type] ?? btoa('stands in for a file') };
}
