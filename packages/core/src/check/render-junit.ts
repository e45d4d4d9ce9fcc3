import type { CheckResult } from './check-result.js';

/** JUnit XML of a check run: one test case for each check, a failure with what was wanted, found and came closest. */
export function renderJunit(suite: string, results: readonly CheckResult[]): string {
  const failures = results.filter((result) => !result.holds).length;
  const seconds = results.reduce((sum, result) => sum + result.tookMs, 0) / 1000;
  const head = `<testsuite name="${escapeXml(suite)}" tests="${results.length}" failures="${failures}" errors="0" time="${seconds.toFixed(3)}">`;
  return `<?xml version="1.0" encoding="UTF-8"?>\n<testsuites>\n${head}\n${results.map((result) => renderCase(suite, result)).join('')}</testsuite>\n</testsuites>\n`;
}

function renderCase(suite: string, result: CheckResult): string {
  const attributes = `name="${escapeXml(result.check)}" classname="${escapeXml(suite)}" time="${(result.tookMs / 1000).toFixed(3)}"`;
  if (result.holds) return `<testcase ${attributes}/>\n`;
  const message = `wanted ${result.wanted}; found ${result.found}`;
  const near = result.near.map(
    (call) =>
      `${call.at} ${call.call} ${call.operation ?? '(stray)'}${call.differs.map((d) => `\n  ${d.place}: wanted ${d.wanted}, found ${d.found}`).join('')}`,
  );
  return `<testcase ${attributes}><failure message="${escapeXml(message)}">${escapeXml(near.join('\n'))}</failure></testcase>\n`;
}

function escapeXml(text: string): string {
  const entities: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };
  return (
    text
      // biome-ignore lint/suspicious/noControlCharactersInRegex: XML 1.0 cannot hold these characters at all
      .replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g, '\ufffd')
      .replace(/[&<>"]/g, (c) => entities[c] ?? c)
  );
}
