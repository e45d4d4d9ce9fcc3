import { describe, expect, test } from 'vitest';
import { generateElement } from '../src/contract/wsdl/generate-markup.js';
import { SchemaSet } from '../src/contract/wsdl/schema-set.js';
import { writeMarkup } from '../src/contract/wsdl/write-markup.js';
import { WsdlContract } from '../src/contract/wsdl/wsdl-contract.js';
import { readXmlTree } from '../src/contract/wsdl/xml-tree.js';
import { XsdValidator } from '../src/contract/wsdl/xsd-validator.js';
import { checkCases, completeService, draftContract, openContract, requireService } from '../src/index.js';
import { makeRequest } from './support.js';

const SCHEMA = `
<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns:t="urn:t" targetNamespace="urn:t" elementFormDefault="qualified">
  CONTENT
</xs:schema>`;
const inEnvelope = (body: string) => `<e:Envelope xmlns:e="e"><e:Body>${body}</e:Body></e:Envelope>`;

/** What is made up for the element `a`, and what the validator finds wrong with it. */
function make(content: string) {
  const text = SCHEMA.replace('CONTENT', content);
  const set = new SchemaSet([{ node: readXmlTree(text, 'x:/a.xsd'), targetNamespace: 'urn:t' }]);
  const made = generateElement(set, '{urn:t}a', 'place');
  if (made === null) throw new Error('nothing was made');
  const markup = writeMarkup(made, new Map([['urn:t', 't']]));
  const validator = new XsdValidator(set);
  const findings = validator.checkEnvelope(inEnvelope(markup));
  expect(validator.trouble).toBe(null);
  return { markup, findings };
}

const simple = (type: string) => `<xs:element name="a" type="xs:${type}"/>`;
const restricted = (base: string, facets: string) =>
  `<xs:element name="a"><xs:simpleType><xs:restriction base="xs:${base}">${facets}</xs:restriction></xs:simpleType></xs:element>`;
const complex = (content: string, more = '') =>
  `<xs:element name="a"><xs:complexType>${content}</xs:complexType></xs:element>${more}`;

describe('an element that is made up is valid by its schema', () => {
  const BUILT_IN =
    'string normalizedString token language NMTOKEN NMTOKENS Name NCName ID anyURI QName boolean decimal integer int long short byte unsignedByte unsignedInt unsignedLong unsignedShort positiveInteger negativeInteger nonNegativeInteger nonPositiveInteger float double date dateTime time duration gYear gYearMonth gMonth gMonthDay gDay hexBinary base64Binary anySimpleType anyType';
  test.each(BUILT_IN.split(' '))('of the type %s', (type) => expect(make(simple(type)).findings).toBe(null));

  test.each([
    restricted('string', '<xs:length value="3"/>'),
    restricted('string', '<xs:minLength value="30"/><xs:maxLength value="31"/>'),
    restricted('string', '<xs:pattern value="[A-Z]{2}\\d+"/><xs:pattern value="\\i\\c*"/>'),
    restricted('string', '<xs:enumeration value="x y"/><xs:enumeration value="z"/>'),
    restricted('decimal', '<xs:fractionDigits value="2"/><xs:minExclusive value="0"/><xs:maxInclusive value="0.05"/>'),
    restricted('decimal', '<xs:totalDigits value="4"/><xs:fractionDigits value="1"/>'),
    restricted('int', '<xs:minInclusive value="1000"/>'),
    restricted('byte', '<xs:maxExclusive value="-3"/>'),
    restricted('date', '<xs:minInclusive value="2031-01-01"/>'),
    '<xs:element name="a"><xs:simpleType><xs:list itemType="xs:int"/></xs:simpleType></xs:element>',
    '<xs:element name="a"><xs:simpleType><xs:union memberTypes="xs:date xs:int"/></xs:simpleType></xs:element>',
    '<xs:element name="a" type="xs:string" fixed="so"/>',
  ])('with facets: %s', (content) => expect(make(content).findings).toBe(null));

  test.each<[string, string, RegExp]>([
    [
      'an optional sequence',
      complex(
        '<xs:sequence><xs:element name="b" type="xs:int" minOccurs="0"/><xs:element name="c" type="xs:int" maxOccurs="unbounded"/></xs:sequence>',
      ),
      /<t:b>.*<t:c>.*<t:c>/s,
    ],
    [
      'a choice',
      complex('<xs:choice><xs:element name="b" type="xs:int"/><xs:element name="c" type="xs:int"/></xs:choice>'),
      /<t:b>\d+<\/t:b>\n<\/t:a>/,
    ],
    [
      'all',
      complex('<xs:all><xs:element name="b" type="xs:int"/><xs:element name="c" type="xs:int"/></xs:all>'),
      /<t:b>.*<t:c>/s,
    ],
    [
      'a group',
      complex(
        '<xs:group ref="t:g"/>',
        '<xs:group name="g"><xs:sequence><xs:element name="b" type="xs:int"/></xs:sequence></xs:group>',
      ),
      /<t:b>/,
    ],
    [
      'attributes',
      complex(
        '<xs:attribute name="b" type="xs:int" use="required"/><xs:attribute name="c" use="prohibited"/><xs:attributeGroup ref="t:g"/>',
        '<xs:attributeGroup name="g"><xs:attribute name="d" default="x"/></xs:attributeGroup>',
      ),
      /<t:a.* b="\d+" d="x"\/>/,
    ],
    [
      'a text with attributes',
      complex(
        '<xs:simpleContent><xs:extension base="xs:decimal"><xs:attribute name="b" type="xs:NCName"/></xs:extension></xs:simpleContent>',
      ),
      /b="[^"]+">[\d.]+</,
    ],
    [
      'elements without namespace',
      complex('<xs:sequence><xs:element name="b" type="xs:int" form="unqualified"/></xs:sequence>'),
      /<b>/,
    ],
    [
      'a referred element',
      complex('<xs:sequence><xs:element ref="t:b"/></xs:sequence>', '<xs:element name="b" type="xs:int"/>'),
      /<t:b>/,
    ],
    [
      'a substitute',
      complex(
        '<xs:sequence><xs:element ref="t:head"/></xs:sequence>',
        '<xs:element name="head" abstract="true"/><xs:element name="b" substitutionGroup="t:head" type="xs:int"/>',
      ),
      /<t:b>/,
    ],
    [
      'an extended type',
      `<xs:element name="a" type="t:two"/><xs:complexType name="one"><xs:sequence><xs:element name="b" type="xs:int"/></xs:sequence></xs:complexType><xs:complexType name="two"><xs:complexContent><xs:extension base="t:one"><xs:sequence><xs:element name="c" type="xs:int"/></xs:sequence></xs:extension></xs:complexContent></xs:complexType>`,
      /<t:b>.*<t:c>/s,
    ],
    [
      'a type in the place of an abstract one',
      `<xs:element name="a" type="t:one"/><xs:complexType name="one" abstract="true"/><xs:complexType name="two"><xs:complexContent><xs:extension base="t:one"><xs:sequence><xs:element name="c" type="xs:int"/></xs:sequence></xs:extension></xs:complexContent></xs:complexType>`,
      /xsi:type="t:two"/,
    ],
    [
      'a circle',
      `<xs:element name="a" type="t:node"/><xs:complexType name="node"><xs:sequence><xs:element name="b" type="xs:int"/><xs:element name="next" type="t:node" minOccurs="0"/></xs:sequence></xs:complexType>`,
      /<t:b>/,
    ],
    [
      'a circle in a choice',
      `<xs:element name="a" type="t:node"/><xs:complexType name="node"><xs:choice><xs:element name="next" type="t:node"/><xs:element name="b" type="xs:int"/></xs:choice></xs:complexType>`,
      /<t:b>/,
    ],
  ])('with %s', (_what, content, shape) => {
    const { markup, findings } = make(content);
    expect(findings).toBe(null);
    expect(markup).toMatch(shape);
    expect(make(content).markup).toBe(markup);
  });
});

const WSDL = (types: string, style = 'document') => `
<definitions xmlns="http://schemas.xmlsoap.org/wsdl/" xmlns:s="http://schemas.xmlsoap.org/wsdl/soap/" xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns:k="urn:kiln" targetNamespace="urn:kiln" name="Kiln">
  <types>${types}</types>
  <message name="fireIn"><part name="p" element="k:fire"/></message>
  <message name="fireOut"><part name="p" element="k:fired"/></message>
  <message name="cold"><part name="p" element="k:tooCold"/></message>
  <message name="note"><part name="p" element="k:note"/></message>
  <portType name="Desk">
    <operation name="fire"><documentation>Fire it</documentation><input message="k:fireIn"/><output message="k:fireOut"/><fault name="cold" message="k:cold"/></operation>
    <operation name="note"><input message="k:note"/></operation>
    <operation name="lost"><input message="k:nothing"/></operation>
  </portType>
  <binding name="Desk" type="k:Desk">
    <s:binding style="${style}" transport="http://schemas.xmlsoap.org/soap/http"/>
    <operation name="fire"><s:operation soapAction="urn:fire"/><input><s:body use="literal"/></input><output><s:body use="literal"/></output></operation>
    <operation name="note"><s:operation/><input><s:body use="literal"/></input></operation>
    <operation name="lost"><s:operation/><input><s:body use="literal"/></input></operation>
  </binding>
  <service name="KilnDesk"><port name="Desk" binding="k:Desk"><s:address location="http://kiln.example/k/desk"/></port></service>
</definitions>`;
const TYPES = `<xs:schema targetNamespace="urn:kiln" elementFormDefault="qualified">
  <xs:element name="fire"><xs:complexType><xs:sequence><xs:element name="potId" type="xs:string"/><xs:element name="heat"><xs:simpleType><xs:restriction base="xs:int"><xs:minInclusive value="1"/><xs:maxInclusive value="1300"/></xs:restriction></xs:simpleType></xs:element></xs:sequence></xs:complexType></xs:element>
  <xs:element name="fired"><xs:complexType><xs:sequence><xs:element name="pot"><xs:complexType><xs:sequence><xs:element name="glaze"><xs:simpleType><xs:restriction base="xs:string"><xs:enumeration value="green"/><xs:enumeration value="white"/></xs:restriction></xs:simpleType></xs:element></xs:sequence><xs:attribute name="id"/></xs:complexType></xs:element></xs:sequence></xs:complexType></xs:element>
  <xs:element name="tooCold" type="xs:string"/><xs:element name="note" type="xs:string"/>
</xs:schema>`;
const DRAFT = draftContract(WSDL(TYPES), { service: null, port: null });

describe('a service drafted from a WSDL document', () => {
  test('has an operation for each, answers what was asked, and what it says of faults', () => {
    expect(DRAFT.service).toBe('kiln-desk');
    expect(DRAFT.text).toContain('{ soap: fire, at: /k/desk }'.replace(/^.*$/, 'soap: fire'));
    expect(DRAFT.text).toContain('<k:pot id="${xpath(call.xml, \'string(//k:potId)\')}">');
    expect(DRAFT.text).toMatch(/case: cold\n\s+when:\n\s+header upsetter-case: cold/);
    expect(DRAFT.text).toMatch(/status: 202\n\s+none: true/);
    expect(DRAFT.unusable).toEqual([{ at: expect.stringMatching(/^input/), reason: 'there is no message k:nothing' }]);
  });

  test('is as its contract says, and so are the calls that are made up for it', () => {
    const index = openContract(WSDL(TYPES));
    const check = checkCases(requireService(DRAFT.text, DRAFT.files), index);
    expect(check.cases.map(({ outcome }) => outcome)).toEqual(['holds', 'holds', 'holds']);
    expect(check).toMatchObject({ unknown: [], missing: [], incomplete: [] });
    for (const own of index.operations)
      for (const { body, headers } of own.samples()) {
        const type = { 'content-type': 'text/xml', ...Object.fromEntries(headers) };
        expect(own.check(makeRequest('POST /', { headers: type, body: String(body?.value) }), [])).toBe(null);
      }
  });

  test('is completed where parts are missing', () => {
    const text = DRAFT.text.replace(/ {2}note:[\s\S]*$/, '').replace(/ {6}- case: cold[\s\S]*?(?= {6}- case: as)/, '');
    const index = openContract(WSDL(TYPES));
    expect(checkCases(requireService(text), index)).toMatchObject({
      missing: [{ on: 'POST /k/desk soap note' }],
      incomplete: [{ operation: 'fire', code: 'fault cold' }],
    });
    const completed = completeService({ text, files: {} }, index, null);
    expect(completed.added).toEqual(['fire / cold', 'note']);
    expect(checkCases(requireService(completed.text), index)).toMatchObject({ missing: [], incomplete: [] });
  });

  test('keeps apart by their actions what has the same element, when it is completed, too', () => {
    const twins = WSDL(TYPES)
      .replace('<input message="k:note"/>', '<input message="k:fireIn"/>')
      .replace('<operation name="note"><s:operation/>', '<operation name="note"><s:operation soapAction="urn:note"/>');
    const whole = draftContract(twins, { service: null, port: null });
    expect(whole.text).toMatch(/soap: note\n\s+at: \/k\/desk\n\s+element: fire\n\s+action: urn:note/);
    const text = whole.text.replace(/ {2}note:[\s\S]*$/, '');
    const completed = completeService({ text, files: {} }, openContract(twins), null);
    expect(completed.added).toEqual(['note']);
    expect(completed.text).toContain('urn:note');
    expect(checkCases(requireService(completed.text), openContract(twins))).toMatchObject({ unknown: [], missing: [] });
  });

  test('takes none of what cannot be used: the style rpc, schemas that are not there', () => {
    const rpc = draftContract(WSDL(TYPES, 'rpc'), { service: null, port: null });
    expect(rpc).toMatchObject({ operations: 0 });
    expect(rpc.unusable[0]?.reason).toMatch(/style rpc/);
    const missing = WSDL('<xs:schema><xs:import namespace="urn:kiln" schemaLocation="kiln.xsd"/></xs:schema>');
    expect(draftContract(missing, { service: null, port: null }).unusable[0]?.reason).toBe(
      'it leads to kiln.xsd, which was not read',
    );
    expect(() => new WsdlContract('<a/>')).toThrow(/a WSDL 1.1 document is expected/);
    expect(() => new WsdlContract('<a>')).toThrow(/cannot be read/);
    expect(() => new WsdlContract('<!DOCTYPE a><a/>')).toThrow(/cannot be read/);
  });
});

describe('a SOAP call held against its contract', () => {
  const [fire] = openContract(WSDL(TYPES)).operations;
  const told = (body: string, headers: Record<string, string> = {}) =>
    (
      fire?.check(
        makeRequest('POST /', {
          headers: { 'content-type': 'text/xml', soapaction: '"urn:fire"', ...headers },
          body: body.replace('ENV', 'http://schemas.xmlsoap.org/soap/envelope/'),
        }),
        [],
      ) ?? []
    ).map(({ at, message, refusal }) => `${refusal} ${at} ${message}`);
  const call = (inner: string) =>
    `<e:Envelope xmlns:e="ENV"><e:Body><k:fire xmlns:k="urn:kiln">${inner}</k:fire></e:Body></e:Envelope>`;
  const GOOD = '<k:potId>P1</k:potId><k:heat>900</k:heat>';

  test('may be as it says', () => expect(told(call(GOOD))).toEqual([]));

  test.each<[string, string, Record<string, string>, RegExp]>([
    ['a value', call('<k:potId>P1</k:potId><k:heat>2000</k:heat>'), {}, /^400 xml \/fire\/heat .*1300/],
    ['an element', call('<k:potId>P1</k:potId>'), {}, /^400 xml \/fire Missing child element/],
    ['its type', call(GOOD), { 'content-type': 'application/json' }, /^415 header content-type is application\/json/],
    ['its action', call(GOOD), { soapaction: '"urn:bake"' }, /^400 header soapaction is urn:bake; it is urn:fire/],
    [
      'its version',
      call(GOOD).replace('ENV', 'http://www.w3.org/2003/05/soap-envelope'),
      { 'content-type': 'application/soap+xml' },
      /^400 body an envelope of SOAP 1.2; it is bound to 1.1/,
    ],
    ['its envelope', '<k:fire xmlns:k="urn:kiln"/>', {}, /^400 body a SOAP envelope is expected/],
  ])('is told apart by %s', (_what, body, headers, message) => {
    const found = told(body, headers);
    expect(found).toHaveLength(1);
    expect(found[0]).toMatch(message);
  });

  test('is told with the line of the declaration', () => {
    const [finding] =
      fire?.check(
        makeRequest('POST /', {
          headers: { 'content-type': 'text/xml', soapaction: 'urn:fire' },
          body: call('<k:potId>P1</k:potId><k:heat>x</k:heat>').replace(
            'ENV',
            'http://schemas.xmlsoap.org/soap/envelope/',
          ),
        }),
        [],
      ) ?? [];
    expect(finding?.rule).toBe('element heat (line 4)');
  });

  test('is refused when it is made to be: each lacks one element', () => {
    const hostile = fire?.hostileCalls(fire.address as never) ?? [];
    expect(hostile.map(({ name }) => name)).toEqual(['without potId', 'without heat']);
  });

  test('gets an answer that is held against it, too', () => {
    const say = (body: string, status = 200) =>
      (
        fire?.checkAnswer({
          status,
          headers: [],
          body: `<e:Envelope xmlns:e="http://schemas.xmlsoap.org/soap/envelope/"><e:Body>${body}</e:Body></e:Envelope>`,
        }) ?? []
      ).map(({ at, message }) => `${at} ${message}`);
    expect(say('<k:fired xmlns:k="urn:kiln"><k:pot><k:glaze>green</k:glaze></k:pot></k:fired>')).toEqual([]);
    expect(say('<k:fired xmlns:k="urn:kiln"><k:pot><k:glaze>gren</k:glaze></k:pot></k:fired>')[0]).toMatch(
      /^xml \/fired\/pot\/glaze .*did you mean 'green'\?/,
    );
    expect(say('<k:note xmlns:k="urn:kiln"/>')[0]).toMatch(
      /^body has \{urn:kiln\}note; the contract answers \{urn:kiln\}fired/,
    );
    const fault = (detail: string) =>
      say(`<e:Fault><faultcode>e:Client</faultcode><faultstring>x</faultstring>${detail}</e:Fault>`, 500);
    expect(fault('')).toEqual([]);
    expect(fault('<detail><k:tooCold xmlns:k="urn:kiln"><x/></k:tooCold></detail>')[0]).toMatch(/^xml \/tooCold/);
    expect((fire?.checkAnswer({ status: 200, headers: [], body: null }) ?? [])[0]?.message).toMatch(/is empty/);
  });
});
