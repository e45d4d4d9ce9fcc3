import { defineConfig } from 'rolldown';

/** Those that others give us values of, or that bring files of their own. */
const APART = /^(?:zod|yaml|libxml2-wasm)(?:\/|$)/;

/** The core and the libraries of its own in a few files: reading hundreds takes longer than most commands do. */
export default defineConfig({
  input: {
    index: 'dist/index.js',
    wire: 'dist/wire/index.js',
    light: 'dist/light.js',
    writing: 'dist/definition/text-edit.js',
  },
  platform: 'node',
  external: APART,
  output: { dir: 'dist/bundled', format: 'esm', sourcemap: true, cleanDir: true },
});
