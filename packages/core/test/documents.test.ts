import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { describe, expect, test } from 'vitest';
import { type CompiledService, compileChecks, ERROR_TABLE, loadService, requireService } from '../src/index.js';
import { mistakes, serviceOf } from './support.js';

const ROOT = fileURLToPath(new URL('../../../', import.meta.url));
const DOCUMENTS = [
  'README.md',
  'CHANGELOG.md',
  ...readdirSync(`${ROOT}docs`)
    .filter((name) => name.endsWith('.md'))
    .map((name) => `docs/${name}`),
];
const read = (path: string): string => readFileSync(`${ROOT}${path}`, 'utf8');

interface Example {
  readonly place: string;
  readonly text: string;
}

const examples: Example[] = DOCUMENTS.flatMap((path) => {
  const text = read(path);
  return [...text.matchAll(/^```yaml\n([\s\S]*?)^```/gm)].map((match) => ({
    place: `${path}:${text.slice(0, match.index).split('\n').length}`,
    text: match[1] ?? '',
  }));
});

const demoFiles = ['berth-desk', 'tide-office', 'manifest-office', 'vessel-register'];
const CONTRACT = './berth-desk.openapi.yaml';
const CONTRACTS = [CONTRACT, './manifest-office.wsdl', './manifests.xsd', './goods.xsd', './vessels.csv'];
const contractFiles = Object.fromEntries(
  CONTRACTS.map((name) => [name, { kind: 'text' as const, content: read(`packages/demo/files/${name}`) }]),
);
const demoServices = (): CompiledService[] =>
  demoFiles.map((name) => requireService(read(`packages/demo/files/${name}.yaml`), contractFiles));

/** The mistakes of an example: a whole service file, a list of cases, or a checks file over the demo's services. */
function mistakesOf(text: string): readonly unknown[] {
  if (text.startsWith('checks:')) {
    const compiled = compileChecks(text, demoServices(), { lane: 'main', withinMs: 0 });
    return compiled.kind === 'refused' ? compiled.problems : [];
  }
  return mistakes(text.startsWith('- case:') ? serviceOf('"* /pilots/{pilotId}"', text) : text);
}

describe('every example of the documents is parsed and compiled', () => {
  test('there are some', () => expect(examples.length).toBeGreaterThanOrEqual(4));

  test.each(examples.map(({ place, text }) => [place, text] as const))('%s', (_place, text) => {
    expect(mistakesOf(text)).toEqual([]);
  });
});

test.each(demoFiles)('the demo file %s compiles', (name) => {
  expect(loadService(read(`packages/demo/files/${name}.yaml`), contractFiles).kind).toBe('loaded');
});

test('the checks of the demo compile over its services', () => {
  expect(mistakesOf(read('packages/demo/files/checks.yaml'))).toEqual([]);
});

test('the page of errors is the table of codes (node scripts/write-errors.mjs writes it)', () => {
  const rows = read('docs/errors.md')
    .split('\n')
    .filter((line) => line.startsWith('| `'));
  expect(rows).toEqual(
    Object.entries(ERROR_TABLE).map(
      ([code, { status, title, next }]) => `| \`${code}\` | ${status} | ${title} | ${next} |`,
    ),
  );
});

test('every picture and page that the README links is there, and no other picture is kept', () => {
  const readme = read('README.md');
  const linked = [...readme.matchAll(/\]\(([^)#]+)\)/g)]
    .map((match) => match[1] ?? '')
    .filter((path) => !path.startsWith('http'));
  for (const path of linked) expect(() => readFileSync(`${ROOT}${path}`), path).not.toThrow();
  const kept = readdirSync(`${ROOT}docs/screenshots`).map((name) => `docs/screenshots/${name}`);
  expect(kept.filter((path) => !linked.includes(path))).toEqual([]);
});

test('every command in the documents is one there is', () => {
  const commands = readFileSync(`${ROOT}docs/command-line.md`, 'utf8').match(/`upsetter ([a-z]+)/g) ?? [];
  const known = new Set(commands.map((command) => command.slice('`upsetter '.length)));
  const used = DOCUMENTS.flatMap((path) =>
    [...read(path).matchAll(/^(?:npx )?upsetter ([a-z]+)/gm)].map((match) => match[1] ?? ''),
  );
  expect(used.filter((command) => !known.has(command))).toEqual([]);
});
