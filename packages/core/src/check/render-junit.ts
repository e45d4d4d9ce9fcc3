import type { CheckResult } from './check-result.js';

/** One test case of a JUnit report. */
export interface JunitCase {
  readonly name: string;
  readonly tookMs: number;
  /** What did not hold, and more of it; null when it held. */
  readonly failure: { readonly message: string; readonly detail: string } | null;
}

/** JUnit XML of a check run: one test case for each check, a failure with what was wanted, found and came closest. */
export function renderJunit(suite: string, results: readonly CheckResult[]): string {
  return renderJunitCases(
    suite,
    results.map((result) => ({
      name: result.check,
      tookMs: result.tookMs,
      failure: result.holds
        ? null
        : {
            message: `wanted ${result.wanted}; found ${result.found}`,
            detail: result.near
              .map(
                (call) =>
                  `${call.at} ${call.call} ${call.operation ?? '(stray)'}${call.differs.map((d) => `\n  ${d.place}: wanted ${d.wanted}, found ${d.found}`).join('')}`,
              )
              .join('\n'),
          },
    })),
  );
}

/** JUnit XML of one suite. */
export function renderJunitCases(suite: string, cases: readonly JunitCase[]): string {
  const failures = cases.filter(({ failure }) => failure !== null).length;
  const seconds = cases.reduce((sum, { tookMs }) => sum + tookMs, 0) / 1000;
  const head = `<testsuite name="${escapeXml(suite)}" tests="${cases.length}" failures="${failures}" errors="0" time="${seconds.toFixed(3)}">`;
  return `<?xml version="1.0" encoding="UTF-8"?>\n<testsuites>\n${head}\n${cases.map((item) => renderCase(suite, item)).join('')}</testsuite>\n</testsuites>\n`;
}

function renderCase(suite: string, { name, tookMs, failure }: JunitCase): string {
  const attributes = `name="${escapeXml(name)}" classname="${escapeXml(suite)}" time="${(tookMs / 1000).toFixed(3)}"`;
  if (failure === null) return `<testcase ${attributes}/>\n`;
  return `<testcase ${attributes}><failure message="${escapeXml(failure.message)}">${escapeXml(failure.detail)}</failure></testcase>\n`;
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
