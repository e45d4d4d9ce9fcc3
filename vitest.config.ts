import { defineConfig } from 'vitest/config';

const junit =
  process.env.CI === undefined ? [] : [['junit', { outputFile: 'tests/out/junit.xml' }] as [string, object]];

export default defineConfig({
  test: {
    reporters: ['default', ...junit],
    projects: [
      {
        test: {
          name: 'unit',
          include: ['packages/{core,store,engine}/src/**/*.test.ts', 'packages/*/test/**/*.test.ts'],
          environment: 'node',
          pool: 'threads',
          testTimeout: 30_000,
        },
      },
      {
        test: {
          name: 'service',
          include: ['tests/service/**/*.test.ts', 'tests/command/**/*.test.ts'],
          environment: 'node',
          pool: 'forks',
          testTimeout: 30_000,
          hookTimeout: 60_000,
        },
      },
      {
        test: {
          name: 'browser',
          include: ['tests/browser/**/*.test.ts'],
          environment: 'node',
          pool: 'forks',
          fileParallelism: false,
          testTimeout: 60_000,
          hookTimeout: 60_000,
        },
      },
    ],
  },
});
