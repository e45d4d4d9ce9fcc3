import randexp from 'randexp';
import { drawAt, hashText, uuidAt } from '../state/draw.js';
import type { FlatSchema } from './flat-schema.js';
import { compilePattern, fitsPattern } from './given-value.js';
import { byName, memberOf } from './member-of.js';
import { singularOf } from './word-forms.js';

// CommonJS whose types say `default`, whose runtime is the class itself.
const RandExp = randexp as unknown as typeof randexp.default;

/** A moment all generated times count from: 2026-03-01T08:00:00Z, so that they are the same each time. */
const FIRST_TIME_MS = Date.UTC(2026, 2, 1, 8);
const MS_PER_HOUR = 3_600_000;
const HOURS_PER_DAY = 24;

/** Words in names of members that say which of several times comes first. */
const ORDER: readonly RegExp[] = [
  /creat|born|birth|request/i,
  /start|begin|from|since|open|issue/i,
  /updat|modif|chang|sent/i,
  /end|until|to$|expir|due|clos|finish|complet|deleted/i,
];

/** A text that fits, by its format, its name, its limits. `place` names where it stands; draws depend on it alone. */
export function generateText({ format, patterns, limits }: FlatSchema, place: string): string {
  const { minLength = 0, maxLength = Number.POSITIVE_INFINITY } = limits;
  const hash = hashText(place);
  const [pattern] = patterns;
  const formatted = FORMATS[format ?? '']?.(place, hash);
  if (pattern !== undefined) {
    const fits = (text: string): boolean => patterns.every((own) => fitsPattern(own, text));
    // Patterns of formats may ask for capitals.
    const own = formatted === undefined ? [] : [formatted, formatted.toUpperCase()];
    return own.find(fits) ?? generatePattern(patterns, hash, minLength, maxLength);
  }
  const made = formatted ?? wordFor(place);
  if (made.length >= minLength && made.length <= maxLength) return made;
  return made.padEnd(minLength, FORMATS[format ?? ''] === undefined ? ' and so on' : 'x').slice(0, maxLength);
}

const FORMATS: Readonly<Record<string, (place: string, hash: number) => string>> = {
  'date-time': (place) => momentFor(place).toISOString(),
  datetime: (place) => momentFor(place).toISOString(),
  date: (place) => momentFor(place).toISOString().slice(0, 10),
  time: () => '08:00:00Z',
  duration: () => 'PT2H',
  uuid: (_, hash) => uuidAt(hash, 0),
  email: (place) =>
    `${
      nameOf(place)
        .replaceAll(/[^a-z]/gi, '')
        .toLowerCase() || 'office'
    }@harbour.example`,
  'idn-email': () => 'office@harbour.example',
  uri: (place) => `https://harbour.example/${kebab(memberOf(place))}`,
  url: (place) => `https://harbour.example/${kebab(memberOf(place))}`,
  iri: () => 'https://harbour.example/',
  'uri-reference': (place) => `/${kebab(memberOf(place))}`,
  'iri-reference': () => '/harbour',
  'uri-template': () => '/harbour/{berth}',
  hostname: () => 'harbour.example',
  'idn-hostname': () => 'harbour.example',
  ipv4: (_, hash) => `192.0.2.${1 + (hash % 250)}`,
  ipv6: (_, hash) => `2001:db8::${(1 + (hash % 0xfffe)).toString(16)}`,
  byte: () => 'aGFyYm91cg==',
  binary: () => 'harbour',
  password: () => 'made up',
  'json-pointer': () => '/harbour/0',
  'relative-json-pointer': () => '0/harbour',
  regex: () => '^[A-Z]',
};

/** The day of what it stands in, the hour by its name: what is created comes before what is updated. */
const orderOf = byName((name) => ORDER.findIndex((words) => words.test(name)));

function momentFor(place: string): Date {
  const thing = place.slice(0, Math.max(0, place.lastIndexOf('.')));
  const order = orderOf(memberOf(place));
  const day = drawAt(hashText(thing), 0) % 28;
  return new Date(FIRST_TIME_MS + (day * HOURS_PER_DAY + Math.max(order, 0) * 2) * MS_PER_HOUR);
}

function kebab(name: string): string {
  return name
    .replaceAll(/([a-z0-9])([A-Z])/g, '$1-$2')
    .replaceAll(/[^A-Za-z0-9]+/g, '-')
    .toLowerCase();
}

const PEOPLE = ['Anna Grey', 'Tom Hay', 'Una Reid', 'Rob Sinclair', 'Ida Moar', 'Ben Flett'];
const PLACES = ['North Haven', 'Skerry', 'Gull Rock', 'Outer Holm', 'Wick', 'South Quay'];
const SENTENCES = [
  'As agreed.',
  'To be looked at again in spring.',
  'Made up for this answer.',
  'Nothing out of the ordinary.',
];

/** What a member of this name is likely to hold; its own name, numbered in lists, where nothing is known. */
const BY_NAME: readonly (readonly [RegExp, (pick: (list: readonly string[]) => string, hash: number) => string])[] = [
  [/^(first|given)_?name$/i, (pick) => pick(PEOPLE).split(' ')[0] ?? ''],
  [/^(last|family|sur)_?name$/i, (pick) => pick(PEOPLE).split(' ')[1] ?? ''],
  [
    /^(full|user|display|contact|owner|author|customer)_?name$|^(author|owner|contact|customer|assignee|creator)$/i,
    (pick) => pick(PEOPLE),
  ],
  [/e_?mail/i, (pick) => `${pick(PEOPLE).split(' ')[0]?.toLowerCase()}@harbour.example`],
  [/phone|mobile|fax/i, (_, hash) => `+44 1632 96${String(hash % 10_000).padStart(4, '0')}`],
  [/(^|_)(city|town|place|port|location|region)$/i, (pick) => pick(PLACES)],
  [/country_?code/i, () => 'GB'],
  [/country/i, () => 'Scotland'],
  [/currency/i, () => 'GBP'],
  [/(post|zip)_?code|postal/i, () => 'KW15 1AA'],
  [/street|address/i, (_, hash) => `${1 + (hash % 40)} Shore Street`],
  [/language|locale/i, () => 'en-GB'],
  [/(url|uri|link|href|website)$/i, () => 'https://harbour.example/'],
  [/description|summary|comment|note|message|remark|text|reason|detail/i, (pick) => pick(SENTENCES)],
  [/colou?r/i, (pick) => pick(['grey', 'red', 'green', 'blue'])],
  [/version/i, () => '1.0.0'],
  [/^name$|^(title|label|subject)$/i, (pick) => pick(NAMES)],
];

const NAMES = ['Petrel', 'Sula', 'Tern', 'Gannet', 'Fulmar', 'Skua', 'Puffin', 'Kittiwake'];

function nameOf(place: string): string {
  return PEOPLE[hashText(place) % PEOPLE.length] ?? '';
}

function wordFor(place: string): string {
  const name = memberOf(place) || 'text';
  const hash = hashText(place);
  const known = BY_NAME.find(([words]) => words.test(name));
  if (known !== undefined) return known[1]((list) => list[hash % list.length] ?? '', hash);
  if (/^_?id$|Id$|_id$/.test(name)) return `${nounOf(place, name)}-${1 + (hash % 999)}`;
  const index = /\[(\d+)\][^[]*$/.exec(place)?.[1];
  return index === undefined ? name : `${name} ${Number(index) + 1}`;
}

/** What an id is of: `berth` for `berthId`, for the `id` of a member `berth`, for the `id` at `/berths/{berthId}`. */
function nounOf(place: string, name: string): string {
  const own = name.replace(/_?id$/i, '');
  if (own !== '') return kebab(own);
  const above = /([A-Za-z_][\w-]*)(?:\[\d+\])*\.\w+$/.exec(place)?.[1];
  if (above !== undefined) return kebab(singularOf(above));
  const words =
    place
      .split(' ')[1]
      ?.split('/')
      .filter((word) => /^[A-Za-z]/.test(word)) ?? [];
  return kebab(singularOf(words.at(-1) ?? 'item'));
}

const MOST_TRIES = 60;
const PASSWORDS = ['Harbour7!', 'Harbour-7-Sound!', 'HARBOUR7sound', 'harbour7', 'Harbour_Sound_2026_!x'];

/** Draws from the first pattern until the others and the length agree. */
function generatePattern(patterns: readonly string[], hash: number, least: number, most: number): string {
  const tests = patterns.flatMap((pattern) => compilePattern(pattern) ?? []);
  let best = '';
  for (let turn = 0; turn < MOST_TRIES; turn++) {
    const drawn = drawPattern(patterns[0] ?? '', hash, turn, Math.min(least + 8 + turn, 200));
    if (drawn === null) break;
    const text = ofLength(drawn, least, most);
    const isFit = tests.every((test) => test.test(text));
    if (isFit && text.length >= least) return text;
    if (best === '' && tests.every((test) => test.test(drawn))) best = drawn;
  }
  if (best !== '') return best;
  // Patterns of passwords look ahead, which drawing does not follow.
  const fitting = PASSWORDS.find((text) => tests.every((test) => test.test(text)) && text.length >= least);
  return fitting?.slice(0, most) ?? '';
}

/** Cut, or gone on with what it has: most patterns take that, too. */
function ofLength(text: string, least: number, most: number): string {
  const long = text.length >= least || text === '' ? text : text.padEnd(least, text);
  return long.slice(0, most);
}

function drawPattern(pattern: string, hash: number, turn: number, longest: number): string | null {
  try {
    const generator = new RandExp(compilePattern(pattern)?.source ?? pattern);
    let position = turn * 10_007;
    generator.max = longest;
    generator.randInt = (from: number, to: number) => from + (drawAt(hash, position++) % (to - from + 1));
    // Printable characters, so that `.` draws none that nobody can read.
    generator.defaultRange.subtract(0, 31);
    return generator.gen();
  } catch {
    return null;
  }
}
