// The closing line of a test run, from Vitest's JSON report. A failed step beside the tests counts as one failure.
import { existsSync, readFileSync } from 'node:fs';

const [file, otherFailure] = process.argv.slice(2);
const results = existsSync(file)
  ? JSON.parse(readFileSync(file, 'utf8'))
  : { numPassedTests: 0, numFailedTests: 0, numFailedTestSuites: 1 };
let failed = results.numFailedTests;
if (failed === 0 && (otherFailure !== '0' || results.numPassedTests === 0)) failed = 1;
console.log(`${results.numPassedTests} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
