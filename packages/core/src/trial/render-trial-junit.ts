import { renderJunitCases } from '../check/render-junit.js';
import type { Trial } from './trial-result.js';

/** A trial as JUnit XML: what was tried, with the differences that are not accepted as failures. */
export function renderTrialJunit({ service, steps }: Trial): string {
  const tried = steps.filter(({ outcome }) => outcome !== 'not tried');
  return renderJunitCases(
    `trial of ${service}`,
    tried.map(({ operation, name, tookMs, differences }) => {
      const open = differences.filter(({ accepted }) => accepted === null);
      const [first] = open;
      const detail = open.map(({ at, message, rule }) => `${at} ${message} ${rule ?? ''}`.trim()).join('\n');
      const failure = first === undefined ? null : { message: `${first.at} ${first.message}`, detail };
      return { name: `${operation} / ${name}`, tookMs, failure };
    }),
  );
}
