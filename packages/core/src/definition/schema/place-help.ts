interface PlaceHelp {
  readonly place: string;
  /** Whether a name, or a path into the body, follows: `query NAME`. */
  readonly isNamed: boolean;
  readonly help: string;
}

/** Where conditions look: one sentence each. */
export const PLACES: readonly PlaceHelp[] = [
  { place: 'method', isNamed: false, help: 'The method: GET.' },
  { place: 'path', isNamed: true, help: 'A parameter of the path template: path berthId.' },
  {
    place: 'query',
    isNamed: true,
    help: 'A query parameter: query day; repeated, one value that satisfies is enough.',
  },
  { place: 'header', isNamed: true, help: 'A header, in any case of letters: header accept.' },
  { place: 'cookie', isNamed: true, help: 'A cookie sent: cookie session.' },
  { place: 'form', isNamed: true, help: 'A field of a form: form vessel.' },
  { place: 'part', isNamed: true, help: 'The text of a part of a multipart form: part manifest.' },
  { place: 'json', isNamed: true, help: 'The body as JSON, by a JSONPath (RFC 9535): json $.vessel.imo.' },
  { place: 'xml', isNamed: true, help: 'The body as XML, by an XPath: xml //m:vessel/@imo.' },
  { place: 'body', isNamed: false, help: 'The body as text.' },
  { place: 'lane', isNamed: false, help: 'The lane of the call.' },
  { place: 'client address', isNamed: false, help: 'Where the call came from.' },
  { place: 'client certificate', isNamed: false, help: 'The common name of the certificate that the caller showed.' },
  { place: 'state', isNamed: true, help: 'A declared state: state pilot, or state held[KEY].' },
  { place: 'row', isNamed: false, help: 'The row that the operation picks; present: true asks whether there is one.' },
  { place: 'row', isNamed: true, help: 'A field of the row that the operation picks: row state.' },
  { place: 'expr', isNamed: false, help: 'A CEL expression that must be true, without ${ }.' },
];

const GROUPS = { any: 'One of these maps of conditions holds.', none: 'None of these maps of conditions holds.' };

/** The keys of a `when` as parts of a JSON Schema: places that stand alone, and patterns of those that are followed by a name. */
export function describePlaces(comparison: object, groups: object): Record<string, unknown> {
  const describe = (isWanted: boolean, keyOf: (place: string) => string): Record<string, object> =>
    Object.fromEntries(
      PLACES.filter(({ isNamed }) => isNamed === isWanted).map(({ place, help }) => [
        keyOf(place),
        { ...comparison, description: help },
      ]),
    );
  return {
    properties: {
      ...describe(false, (place) => place),
      any: { ...groups, description: GROUPS.any },
      none: { ...groups, description: GROUPS.none },
    },
    patternProperties: describe(true, (place) => `^${place} `),
    additionalProperties: false,
  };
}
