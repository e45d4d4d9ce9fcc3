import type { LinkedValue } from '../contract/read-links.js';
import { headerOf } from '../traffic/exchange.js';
import type { TrialAnswer, TrialRequest } from './trial-result.js';
import type { TrialStep } from './trial-step.js';

/** What answers lead to by the contract's links: values that parameters of later calls take. */
export class LinkedValues {
  /** By the operation and the parameter; what was learnt last is what holds. */
  readonly #values = new Map<string, LinkedValue>();

  learn({ contract }: TrialStep, request: TrialRequest, answer: TrialAnswer): void {
    if (contract === null || contract.address === null) return;
    const [path = '', search = ''] = request.target.split('?', 2);
    const texts = path.slice(1).split('/').map(decodeURIComponent);
    const names = contract.address.segments.map((segment) => (segment.kind === 'parameter' ? segment.name : ''));
    const values = contract.linksOf({
      url: request.target,
      method: request.method,
      path: new Map(names.map((name, i) => [name, texts[i] ?? ''])),
      query: new URLSearchParams(search),
      requestHeader: (name) => headerOf(request.headers, name.toLowerCase()),
      requestJson: tryJson(request.body),
      status: answer.status,
      responseHeader: (name) => headerOf(answer.headers, name.toLowerCase()),
      responseJson: tryJson(answer.body),
    });
    for (const value of values) this.#values.set(`${value.to} ${value.place} ${value.name}`, value);
  }

  /** Puts what is known into a call's segments and query; a parameter that the case itself asks for stays. Whether the query is another now. */
  fill({ contract, address, asked, kind }: TrialStep, segments: string[], query: URLSearchParams): boolean {
    if (contract === null || contract.address === null || kind === 'hostile') return false;
    let isChanged = false;
    for (const { to, place, name, value } of this.#values.values()) {
      if (to !== contract.id && to !== contract.at) continue;
      const at = contract.address.segments.findIndex((own) => own.kind === 'parameter' && own.name === name);
      const segment = address.segments[at];
      // The service may call the parameter otherwise.
      const isOpen = segment?.kind === 'parameter' && !asked.includes(`path ${segment.name}`);
      if (at >= 0 && (place === null || place === 'path')) {
        if (isOpen) segments[at] = encodeURIComponent(value);
      } else if ((place === 'query' || (place === null && query.has(name))) && !asked.includes(`query ${name}`)) {
        query.set(name, value);
        isChanged = true;
      }
    }
    return isChanged;
  }
}

function tryJson(text: string | null): unknown {
  try {
    return text === null ? null : JSON.parse(text);
  } catch {
    return null;
  }
}
