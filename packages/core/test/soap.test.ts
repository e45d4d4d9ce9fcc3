import { describe, expect, test } from 'vitest';
import { explainCall } from '../src/index.js';
import { changeXml } from '../src/xml/change-xml.js';
import { decide, load, makeRequest, mistakes, type Sent } from './support.js';

const OLD = 'http://schemas.xmlsoap.org/soap/envelope/';
const NEW = 'http://www.w3.org/2003/05/soap-envelope';
const M = 'urn:mill';

const envelope = (body: string, namespace = OLD): string =>
  `<e:Envelope xmlns:e="${namespace}"><e:Header/><e:Body>${body}</e:Body></e:Envelope>`;
const grind = (inner: string, namespace = OLD): Sent => ({
  body: envelope(`<grind xmlns="${M}">${inner}</grind>`, namespace),
});

const FILE = (cases: string, more = ''): string => `
upsetter: 1
service: mill
namespaces: { m: ${M} }
operations:
  grind:
    on: { soap: grind, at: /mill }
    cases: ${cases}
${more}`;

/** What the one operation answers: status, content type and body. */
function ask(answer: string, sent: Sent = grind('<corn>rye &amp; oats</corn><sacks>12</sacks>')) {
  const decision = decide(load(FILE(`[{ case: only, answer: ${answer} }]`)), 'POST /mill', sent);
  if (decision.kind !== 'answered') throw new Error(JSON.stringify(decision));
  const { status, headers, body } = decision.answer;
  return { status, type: headers[1], body: String(body) };
}

describe('answers in XML', () => {
  test('insert text, never elements, and may be any XML', () => {
    const { type, body } = ask(
      `{ xml: '<a b="\${xpath(call.xml, "//m:corn")}">\${"<b/>"}</a>' }`
        .replaceAll('"//m:corn"', "''//m:corn''")
        .replaceAll('"<b/>"', "''<b/>''"),
    );
    expect(type).toBe('application/xml; charset=utf-8');
    expect(body).toBe('<a b="rye &amp; oats">&lt;b/&gt;</a>');
  });

  test('stand in an envelope of the version that the caller speaks', () => {
    expect(ask(`{ soap: <ground/> }`)).toEqual({
      status: 200,
      type: 'text/xml; charset=utf-8',
      body: `<?xml version="1.0" encoding="utf-8"?>\n<soap:Envelope xmlns:soap="${OLD}"><soap:Body><ground/></soap:Body></soap:Envelope>`,
    });
    const other = ask('{ soap: { header: <day/>, body: <ground/> } }', grind('', NEW));
    expect(other.type).toBe('application/soap+xml; charset=utf-8');
    expect(other.body).toContain(`xmlns:soap="${NEW}"><soap:Header><day/></soap:Header><soap:Body><ground/>`);
  });

  test.each([
    ['sender', OLD, 500, '<faultcode>soap:Client.m:wet</faultcode><faultstring>Wet &amp; cold</faultstring>'],
    ['receiver', OLD, 500, '<faultcode>soap:Server.m:wet</faultcode>'],
    [
      'sender',
      NEW,
      400,
      '<soap:Value>soap:Sender</soap:Value><soap:Subcode><soap:Value>m:wet</soap:Value></soap:Subcode>',
    ],
    ['receiver', NEW, 500, '<soap:Text xml:lang="en">Wet &amp; cold</soap:Text>'],
  ])('a fault of the %s in %s has status %i', (code, version, status, part) => {
    const fault = `{ soapFault: { code: ${code}, subcode: "m:wet", reason: Wet & cold, actor: "urn:miller", detail: <wet/> } }`;
    const answered = ask(fault, grind('', version));
    expect(answered.status).toBe(status);
    expect(answered.body).toContain(part);
    expect(answered.body).toMatch(/<(detail|soap:Detail)><wet\/>/);
    expect(answered.body).toContain('urn:miller');
  });

  test.each([
    ['{ xml: "<a><b></a>" }', /not well-formed XML \(its line 1\)/],
    ['{ soap: "<a>${call.xml" }', /never closed/],
    ['{ soap: "<!DOCTYPE a><a/>" }', /document types are not read/],
    ['{ soap: <a/>, json: 1 }', /an answer has one body/],
    ['{ soap: { head: <a/>, body: <b/> } }', /`soap` has no key `head`; it has header, body/],
    ['{ soapFault: { code: client, reason: x } }', /`code` is sender/],
    ['{ soapFault: { detail: <a/> } }', /`reason` is a text for people/],
  ])('%s is refused', (answer, message) => {
    expect(mistakes(FILE(`[{ case: a, answer: ${answer} }]`)).join('\n')).toMatch(message);
  });
});

describe('conditions by XPath', () => {
  const holds = (condition: string, body: string): boolean =>
    decide(load(FILE(`[{ case: a, when: ${condition}, answer: { none: true } }]`)), 'POST /mill', { body }).kind ===
    'answered';
  const sacks = (...numbers: number[]) =>
    envelope(`<grind xmlns="${M}">${numbers.map((own) => `<sacks of="rye">${own}</sacks>`).join('')}</grind>`);

  test.each<[string, string, boolean]>([
    ['{ xml //m:sacks: 12 }', sacks(12), true],
    ['{ xml //m:sacks: "12" }', sacks(12), true],
    ['{ xml //m:sacks: 12 }', sacks(3, 12), true],
    ['{ xml //m:sacks: { above: 12 } }', sacks(3, 12), false],
    ['{ xml sum(//m:sacks): { from: 15 } }', sacks(3, 12), true],
    ['{ xml //m:sacks/@of: rye }', sacks(1), true],
    ['{ xml //sacks: { present: true } }', sacks(1), false],
    ['{ xml //m:sacks: { present: false } }', sacks(), true],
    ['{ xml count(//m:sacks): 0 }', sacks(), true],
    ['{ xml string(//m:sacks): "" }', sacks(), true],
  ])('%s', (condition, body, expected) => expect(holds(condition, body)).toBe(expected));

  test.each([
    ['{ xml //z:sacks: 1 }', /the prefix `z` is not declared: namespaces: \{ z: ... \}/],
    ['{ "xml //m:sacks[": 1 }', /not an XPath: \/\/m:sacks\[/],
    ['{ xml: 1 }', /`xml` needs an XPath/],
    ['{ "xml count(1 to 1000000000)": 1 }', /ranges/],
    ['{ "xml nothing()": 1 }', /not an XPath/],
  ])('%s is refused', (condition, message) => {
    expect(mistakes(FILE(`[{ case: a, when: ${condition}, answer: { none: true } }]`)).join()).toMatch(message);
  });

  test('tell why a body says nothing', () => {
    const service = load(FILE('[{ case: a, when: { xml //m:sacks: 1 }, answer: { none: true } }]', '    title: x\n'));
    const ladder = explainCall(service, makeRequest('POST /mill', grind('<sacks>2</sacks>')), null).ladder;
    expect(ladder[0]?.cases[0]?.conditions).toMatchObject([{ place: 'xml //m:sacks', found: '"2"', held: false }]);
  });

  test('are read by expressions: one text, none, several', () => {
    const read = (path: string, inner: string) => ask(`{ json: "\${xpath(call.xml, '${path}')}" }`, grind(inner)).body;
    expect(read('//m:sacks', '<sacks>1</sacks>')).toBe('"1"');
    expect(read('//m:sacks', '')).toBe('null');
    expect(read('//m:sacks', '<sacks>1</sacks><sacks>2</sacks>')).toBe('["1","2"]');
    expect(ask("{ json: \"${xpath('<a>3</a>', '/a')}\" }").body).toBe('"3"');
    expect(ask('{ json: "${call.xml == null}" }', { body: envelope('<grind/>') }).body).toBe('false');
  });

  test.each([
    ['${xpath(call.xml, call.query.x)}', /a path that is written out/],
    ['${xpath(call.xml)}', /a path that is written out/],
    ["${xpath(call.xml, '//z:a')}", /the prefix `z` is not declared/],
  ])('%s is refused', (text, message) => {
    expect(mistakes(FILE(`[{ case: a, answer: { text: "${text}" } }]`)).join()).toMatch(message);
  });
});

describe('operations that share a path', () => {
  const SERVICE = load(
    FILE(
      '[{ case: a, answer: { text: grind } }]',
      `  bake: { on: { soap: bake, at: /mill, element: "{${M}}loaf", action: "urn:bake" }, cases: [{ case: a, answer: { text: bake } }] }
  toast: { on: { soap: toast, at: /mill, element: "{${M}}loaf" }, cases: [{ case: a, answer: { text: toast } }] }
  idle: { on: { soap: idle, at: /mill }, cases: [{ case: a, answer: { text: idle } }] }
`,
    ),
  );
  const said = (sent: Sent) => {
    const { summary, ladder } = explainCall(SERVICE, makeRequest('POST /mill', sent), null);
    return ladder[0]?.reached ? ladder[0].operation : summary;
  };

  test.each<[Sent, string]>([
    [{ body: envelope('<grind/>') }, 'grind'],
    [{ body: envelope(`<loaf xmlns="${M}"/>`), headers: { soapaction: '"urn:bake"' } }, 'bake'],
    [{ body: envelope(`<loaf xmlns="${M}"/>`) }, 'toast'],
    [
      {
        body: envelope(`<loaf xmlns="${M}"/>`, NEW),
        headers: { 'content-type': 'application/soap+xml; action="urn:bake"' },
      },
      'bake',
    ],
    [{ body: envelope(''), headers: { soapaction: 'urn:mill/idle' } }, 'idle'],
    [{ body: envelope('<loaf/>') }, 'no SOAP operation at this path takes loaf'],
    [{ body: envelope('') }, 'no SOAP operation at this path takes an empty body'],
    [{ body: '<a/>' }, 'a SOAP envelope is expected, not <a>'],
    [{ body: envelope('<grind/>', 'urn:other') }, 'envelopes of SOAP 1.1 and 1.2 are read, not of urn:other'],
    [{ body: `<e:Envelope xmlns:e="${OLD}"/>` }, 'the envelope has no Body'],
    [{ body: '{}' }, expect.stringMatching(/^the body is not XML: /) as never],
  ])('are told apart by their calls: %j', (sent, expected) => expect(said(sent)).toEqual(expected));

  test('the same one twice is refused', () => {
    const twin = `  again: { on: { soap: again, at: /mill, element: grind }, cases: [] }\n`;
    expect(mistakes(FILE('[]', twin)).join()).toMatch(
      /POST \/mill soap again is answered by operation `grind` already/,
    );
  });

  test.each([
    ['{ soap: grind }', /`at` is the path/],
    ['{ at: /mill }', /`soap` is the name/],
    ['{ soap: grind, at: mill }', /`at`: a path template that starts with/],
    ['{ soap: grind, at: /mill, acton: x }', /did you mean `action`\?/],
    ['[1]', /`on` is a method and a path template/],
  ])('`on: %s` is refused', (on, message) => {
    expect(mistakes(`upsetter: 1\nservice: a\noperations: { x: { on: ${on}, cases: [] } }\n`).join()).toMatch(message);
  });
});

test('XML is changed where a path says, and nowhere else', () => {
  expect(changeXml('<a><b>1</b><b>2</b></a>', '//b', {}, 'x')).toBe('<a><b>x</b><b>x</b></a>');
  expect(changeXml('<a c="1"><b/></a>', '//b|//@c', {}, null)).toBe('<a/>');
  expect(changeXml('<a>', '//b', {}, 'x')).toBe('<a>');
  expect(changeXml('<a/>', 'count(', {}, 'x')).toBe('<a/>');
});
