/** Where conditions look: one sentence each. `named`: a name, or a path into the body, follows: `query NAME`. */
export const PLACE_HELP: Readonly<Record<string, { readonly named: boolean; readonly help: string }>> = {
  method: { named: false, help: 'The method: GET.' },
  path: { named: true, help: 'A parameter of the path template: path berthId.' },
  query: { named: true, help: 'A query parameter: query day; repeated, one value that satisfies is enough.' },
  header: { named: true, help: 'A header, in any case of letters: header accept.' },
  cookie: { named: true, help: 'A cookie sent: cookie session.' },
  form: { named: true, help: 'A field of a form: form vessel.' },
  part: { named: true, help: 'The text of a part of a multipart form: part manifest.' },
  json: { named: true, help: 'The body as JSON, by a JSONPath (RFC 9535): json $.vessel.imo.' },
  xml: { named: true, help: 'The body as XML, by an XPath: xml //m:vessel/@imo.' },
  body: { named: false, help: 'The body as text.' },
  lane: { named: false, help: 'The lane of the call.' },
  'client address': { named: false, help: 'Where the call came from.' },
  'client certificate': { named: false, help: 'The common name of the certificate that the caller showed.' },
  state: { named: true, help: 'A declared state: state pilot, or state held[KEY].' },
  row: { named: false, help: 'The row that the operation picks; present: true asks whether there is one.' },
  'row ': { named: true, help: 'A field of the row that the operation picks: row state.' },
  expr: { named: false, help: 'A CEL expression that must be true, without ${ }.' },
};

const NAME = { any: 'One of these maps of conditions holds.', none: 'None of these maps of conditions holds.' };

/** The keys of a `when` as parts of a JSON Schema: places that stand alone, and patterns of those that are followed by a name. */
export function describePlaces(comparison: object, groups: object): Record<string, unknown> {
  const places = Object.entries(PLACE_HELP);
  return {
    properties: {
      ...Object.fromEntries(
        places
          .filter(([, { named }]) => !named)
          .map(([place, { help }]) => [place, { ...comparison, description: help }]),
      ),
      any: { ...groups, description: NAME.any },
      none: { ...groups, description: NAME.none },
    },
    patternProperties: Object.fromEntries(
      places
        .filter(([, { named }]) => named)
        .map(([place, { help }]) => [`^${place.trim()} `, { ...comparison, description: help }]),
    ),
    additionalProperties: false,
  };
}
