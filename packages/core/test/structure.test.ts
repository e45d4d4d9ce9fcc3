import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { dirname, join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';
import { describe, expect, test } from 'vitest';

const PACKAGES = fileURLToPath(new URL('../../', import.meta.url));

/** What each package may import of ours: arrows go one way. Types of the wire are everybody's. */
const MAY_USE: Readonly<Record<string, readonly string[]>> = {
  core: [],
  engine: ['@upsetter/core'],
  store: ['@upsetter/core', '@upsetter/core/wire'],
  service: [
    '@upsetter/core',
    '@upsetter/core/wire',
    '@upsetter/engine',
    '@upsetter/engine/outgoing',
    '@upsetter/store',
  ],
  client: ['@upsetter/core', '@upsetter/core/wire'],
  // A trial of a file is sent by the command itself, as the engine sends.
  cli: [
    '@upsetter/core',
    '@upsetter/core/light',
    '@upsetter/core/wire',
    '@upsetter/client',
    '@upsetter/engine/outgoing',
    '@upsetter/service',
  ],
  // The form writes files as the core does, and upsets are described as the command does.
  console: ['@upsetter/core/wire', '@upsetter/core/light', '@upsetter/core/writing', '@upsetter/client'],
  demo: ['@upsetter/core', '@upsetter/client', '@upsetter/engine', '@upsetter/service', '@upsetter/store'],
};

const LONGEST_FILE = 400;

function sourcesOf(directory: string): string[] {
  return readdirSync(directory, { withFileTypes: true }).flatMap((entry) => {
    const path = join(directory, entry.name);
    if (entry.isDirectory()) return sourcesOf(path);
    return /\.tsx?$/.test(entry.name) && !/\.test\./.test(entry.name) ? [path] : [];
  });
}

function importsOf(path: string): { from: string; isType: boolean }[] {
  const text = readFileSync(path, 'utf8');
  const written = [...text.matchAll(/^(?:import|export) (type )?[^'";]*?from '([^']+)'/gm)].map((match) => ({
    from: match[2] ?? '',
    isType: match[1] !== undefined,
  }));
  return [
    ...written,
    ...[...text.matchAll(/(?<!typeof )import\('([^']+)'\)/g)].map((match) => ({ from: match[1] ?? '', isType: false })),
  ];
}

/** The source behind `./x.js`. */
function sourceOf(importer: string, from: string): string {
  const path = join(importer, '..', from);
  return existsSync(path.replace(/\.js$/, '.tsx')) ? path.replace(/\.js$/, '.tsx') : path.replace(/\.js$/, '.ts');
}

const sources = (name: string): string[] => sourcesOf(join(PACKAGES, name, 'src'));

describe.each(Object.entries(MAY_USE))('%s', (name, allowed) => {
  test('imports only what stands below it', () => {
    const wrong = sources(name).flatMap((path) =>
      importsOf(path)
        .filter(({ from }) => from.startsWith('@upsetter/') && !allowed.includes(from))
        .map(({ from }) => `${relative(PACKAGES, path)} -> ${from}`),
    );
    expect(wrong).toEqual([]);
  });

  test('has no circle of imports', () => {
    const files = sources(name);
    const edges = new Map(
      files.map((path) => [
        path,
        importsOf(path).flatMap(({ from }) => (from.startsWith('.') ? [sourceOf(path, from)] : [])),
      ]),
    );
    const done = new Set<string>();
    const visit = (path: string, trail: readonly string[]): string[] => {
      if (trail.includes(path))
        return [[...trail.slice(trail.indexOf(path)), path].map((item) => relative(PACKAGES, item)).join(' -> ')];
      if (done.has(path)) return [];
      const circles = (edges.get(path) ?? []).flatMap((next) => visit(next, [...trail, path]));
      done.add(path);
      return circles;
    };
    expect(files.flatMap((path) => visit(path, []))).toEqual([]);
  });

  test(`has no file of more than ${LONGEST_FILE} lines and no folder that says nothing`, () => {
    const long = sources(name).filter((path) => readFileSync(path, 'utf8').split('\n').length > LONGEST_FILE);
    expect(long.map((path) => relative(PACKAGES, path))).toEqual([]);
    expect(sources(name).filter((path) => /\/(utils|helpers|common)\//.test(path))).toEqual([]);
  });
});

describe('core', () => {
  test('does no input or output: no node: modules, no server, store or screen', () => {
    const wrong = sources('core').flatMap((path) =>
      importsOf(path)
        .filter(({ from }) => /^(node:|fastify|knex|pg|react|undici|pino)/.test(from))
        .map(({ from }) => `${relative(PACKAGES, path)} -> ${from}`),
    );
    expect(wrong).toEqual([]);
  });

  test('has no clock, timers, randomness or environment of its own', () => {
    const own =
      /\b(Date\.now\(|new Date\(\)|Math\.random\(|setTimeout\(|setInterval\(|process\.|performance\.now\(|crypto\.)/;
    const wrong = sources('core').filter((path) =>
      own.test(readFileSync(path, 'utf8').replace(/^\s*(\/\/|\*).*$/gm, '')),
    );
    expect(wrong.map((path) => relative(PACKAGES, path))).toEqual([]);
  });
});

test('client and console take only types from the core, what is light, and how files are written, so that they stay small', () => {
  const small = ['@upsetter/core/writing', '@upsetter/core/light'];
  const wrong = ['client', 'console'].flatMap((name) =>
    sources(name).flatMap((path) =>
      importsOf(path)
        .filter(({ from, isType }) => from.startsWith('@upsetter/core') && !isType && !small.includes(from))
        .map(({ from }) => `${relative(PACKAGES, path)} -> ${from}`),
    ),
  );
  expect(wrong).toEqual([]);
  const packagesOf = (path: string): string[] =>
    importsOf(path)
      .filter(({ isType }) => !isType)
      .flatMap(({ from }) =>
        from.startsWith('.') ? packagesOf(join(dirname(path), from.replace(/\.js$/, '.ts'))) : from,
      );
  expect(packagesOf(join(PACKAGES, 'core/src/light.ts'))).toEqual([]);
  const writing = importsOf(join(PACKAGES, 'core/src/definition/write-service-file.ts'));
  expect(writing.filter(({ isType }) => !isType).map(({ from }) => from)).toEqual(['yaml']);
});

test("the files on one call's path that the engine's README lists are there, at most 8", () => {
  const engine = join(PACKAGES, 'engine');
  const listed = [...readFileSync(join(engine, 'README.md'), 'utf8').matchAll(/^\d+\. `([^`]+)`/gm)].map(
    (match) => match[1] ?? '',
  );
  expect(listed.length).toBeGreaterThan(4);
  expect(listed.length).toBeLessThanOrEqual(8);
  expect(listed.filter((path) => !existsSync(join(engine, path)))).toEqual([]);
});
