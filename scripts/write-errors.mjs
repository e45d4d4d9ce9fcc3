// Writes docs/errors.md from the table of error codes: node scripts/write-errors.mjs (after a build).
import { writeFileSync } from 'node:fs';
import { ERROR_TABLE } from '../packages/core/dist/light.js';

const rows = Object.entries(ERROR_TABLE).map(
  ([code, { status, title, next }]) => `| \`${code}\` | ${status} | ${title} | ${next} |`,
);
writeFileSync(
  new URL('../docs/errors.md', import.meta.url),
  `# Errors

Written from the table of codes in \`packages/core/src/errors/error-table.ts\` by \`node scripts/write-errors.mjs\`.

The control API answers errors as Problem Details (RFC 9457): \`code\` is stable, \`detail\` says what is wrong, \`next\` what to do; for a file, \`problems\` lists each mistake
with \`line\`, \`column\`, \`path\` and, for a misspelt word, \`nearest\`. The command line shows the same, and exits with 3 for \`service-unreachable\`, \`store-unavailable\` and
\`store-in-use\`, else with 2.

A mock's own answers: \`stray\` (404, no case answers), \`method-unknown\` (405, with \`Allow\`), \`too-large\` (413), \`access-refused\` (401 or 403, with \`WWW-Authenticate\`), \`expression-failed\` (500).

| code | status | means | what to do |
|---|---|---|---|
${rows.join('\n')}
`,
);
