import { defineConfig } from 'vitest/config';

const junit =
  process.env.CI === undefined ? [] : [['junit', { outputFile: 'tests/out/junit.xml' }] as [string, object]];

/** What is built is read as it is, by Node.js itself. */
const server = { deps: { external: [/\/packages\/\w+\/dist\//] } };

export default defineConfig({
  test: {
    // One a core: much of the time is waiting for commands and browsers.
    maxWorkers: 2,
    reporters: ['default', ...junit],
    projects: [
      {
        test: {
          name: 'unit',
          include: ['packages/{core,store,engine}/src/**/*.test.ts', 'packages/*/test/**/*.test.ts'],
          environment: 'node',
          server,
          pool: 'threads',
          // Nothing here keeps anything: the modules are read once.
          isolate: false,
          testTimeout: 30_000,
        },
      },
      {
        test: {
          name: 'service',
          include: ['tests/service/**/*.test.ts', 'tests/command/**/*.test.ts'],
          environment: 'node',
          server,
          pool: 'forks',
          // Each file starts services of its own and ends them; reading all modules anew takes longer than the tests.
          isolate: false,
          // Guards against hanging, not a measure: machines differ.
          testTimeout: 90_000,
          hookTimeout: 120_000,
        },
      },
      {
        test: {
          name: 'browser',
          include: ['tests/browser/**/*.test.ts'],
          environment: 'node',
          server,
          pool: 'forks',
          isolate: false,
          // One browser at a time, once everything else is done.
          fileParallelism: false,
          sequence: { groupOrder: 1 },
          testTimeout: 90_000,
          hookTimeout: 120_000,
        },
      },
    ],
  },
});
