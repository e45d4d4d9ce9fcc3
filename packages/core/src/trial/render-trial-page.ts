import { escapeHtml, TRIAL_STYLE } from './trial-page-style.js';
import type { Trial, TrialAnswer, TrialRequest, TriedStep } from './trial-result.js';

const WORDS = { holds: 'as it says', accepted: 'accepted', differs: 'differs', 'not tried': 'not tried' } as const;

/** One page that needs nothing else: what differs first, each step with the full messages of both sides. */
export function renderTrialPage({ service, against, environment, startedAt, steps }: Trial): string {
  const count = (outcome: TriedStep['outcome']): number => steps.filter((step) => step.outcome === outcome).length;
  const order = ['differs', 'accepted', 'not tried', 'holds'] as const;
  const sorted = order.flatMap((outcome) => steps.filter((step) => step.outcome === outcome));
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>${escapeHtml(service)} against ${escapeHtml(against)}</title>
<style>${TRIAL_STYLE}</style>
</head>
<body>
<h1>${escapeHtml(service)}</h1>
<p>tried against <code>${escapeHtml(against)}</code> (${escapeHtml(environment)}) at ${escapeHtml(startedAt)}</p>
<p class="sums"><b class="differs">${count('differs')} differ</b>, <b class="holds">${count('holds')} as they say</b>, ${count('accepted')} accepted, ${count('not tried')} not tried</p>
${sorted.map(renderStep).join('\n')}
</body>
</html>
`;
}

function renderStep(step: TriedStep): string {
  const { operation, name, outcome, reason, differences, tookMs } = step;
  const listed = differences
    .map(
      ({ at, message, rule, accepted }) =>
        `<li><code>${escapeHtml(at)}</code> ${escapeHtml(message)}${rule === null ? '' : ` <span class="faint">${escapeHtml(rule)}</span>`}${accepted === null ? '' : ` <span class="faint">accepted: ${escapeHtml(accepted)}</span>`}</li>`,
    )
    .join('');
  const why = reason === null ? '' : `<p class="faint">${escapeHtml(reason)}</p>`;
  const messages =
    step.request === null
      ? ''
      : `<details><summary>messages</summary><div class="sides">${renderRequest(step.request)}${renderAnswer('the case', step.wanted)}${renderAnswer('the real answer', step.got)}</div></details>`;
  const took = step.got === null ? '' : ` <span class="faint">${Math.round(tookMs)} ms</span>`;
  return `<section data-outcome="${outcome}">
<h2><span class="mark ${outcome.replace(' ', '-')}">${WORDS[outcome]}</span> ${escapeHtml(operation)} / ${escapeHtml(name)}${took}</h2>
${listed === '' ? '' : `<ul>${listed}</ul>`}${why}${messages}
</section>`;
}

function renderRequest({ method, target, headers, body }: TrialRequest): string {
  return renderMessage('the call', `${method} ${target}`, headers, body);
}

function renderAnswer(title: string, answer: TrialAnswer | null): string {
  if (answer === null) return '';
  return renderMessage(title, String(answer.status), answer.headers, answer.body);
}

function renderMessage(title: string, first: string, headers: readonly string[], body: string | null): string {
  const lines = headers.flatMap((name, i) => (i % 2 === 0 ? [`${name}: ${headers[i + 1] ?? ''}`] : []));
  const text = [first, ...lines, ...(body === null ? [] : ['', pretty(body)])].join('\n');
  return `<div><h3>${title}</h3><pre>${escapeHtml(text)}</pre></div>`;
}

function pretty(body: string): string {
  try {
    return JSON.stringify(JSON.parse(body), null, 2);
  } catch {
    return body;
  }
}
