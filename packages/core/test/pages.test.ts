import { describe, expect, test } from 'vitest';
import { draftSession, type HeardCall } from './session.js';

const LAMPS = ['L1', 'L2', 'L3', 'L4', 'L5'].map((id, i) => ({ id, watts: 10 + i }));
const ALL: HeardCall = { call: 'GET /lamps/all', json: LAMPS };
const READ: HeardCall = { call: 'GET /lamps/L1', json: LAMPS[0] };

function draftOf(...pages: readonly HeardCall[]): string {
  const draft = draftSession([ALL, READ, ...pages]);
  expect(draft.fidelity?.differences).toEqual([]);
  return draft.text;
}

describe('pages that the page before leads to', () => {
  test('by an opaque word: the draft makes one of its own', () => {
    const text = draftOf(
      { call: 'GET /lamps', json: { lamps: LAMPS.slice(0, 2), next: 'kQ7zRt20Xa' } },
      { call: 'GET /lamps?cursor=kQ7zRt20Xa', json: { lamps: LAMPS.slice(2, 4), next: 'Zp48LmVw9b' } },
      { call: 'GET /lamps?cursor=Zp48LmVw9b', json: { lamps: LAMPS.slice(4), next: null } },
    );
    expect(text).toContain(`from: "\${call.query.cursor == null ? 0 : number(call.query.cursor.substring(5))}"`);
    expect(text).toContain(`next: "\${let.from + 2 < size(let.found) ? 'from-' + string(let.from + 2) : null}"`);
  });

  test('by the key of the last one shown, and by nothing on the last page', () => {
    const text = draftOf(
      { call: 'GET /lamps', json: { lamps: LAMPS.slice(0, 3), last: 'L3' } },
      { call: 'GET /lamps?after=L3', json: { lamps: LAMPS.slice(3) } },
    );
    expect(text).toContain('string(let.found[i].id) == call.query.after');
    expect(text).toContain(`last: "\${let.from + 3 < size(let.found) ? let.found[let.from + 3 - 1].id : omit}"`);
  });

  test('by a number', () => {
    const text = draftOf(
      { call: 'GET /lamps', json: { lamps: LAMPS.slice(0, 3), next: 3 } },
      { call: 'GET /lamps?at=3', json: { lamps: LAMPS.slice(3), next: null } },
    );
    expect(text).toContain('from: "${call.query.at == null ? 0 : number(call.query.at)}"');
  });

  test('by a link, which begins with what the caller calls the service', () => {
    const text = draftOf(
      { call: 'GET /lamps', json: { lamps: LAMPS.slice(0, 3), more: 'http://127.0.0.1:4691/lamps?at=Hk29sLq0' } },
      { call: 'GET /lamps?at=Hk29sLq0', json: { lamps: LAMPS.slice(3), more: '' } },
    );
    expect(text).toContain(`call.origin + '/lamps?at=' + 'from-' + string(let.from + 3) : ''`);
  });
});

describe('calls that are sent again', () => {
  test('under the same key get the same answer, and make nothing more', () => {
    const make = (key: string, id: string, watts: number): HeardCall => ({
      call: 'POST /lamps',
      sent: { watts },
      headers: { 'idempotency-key': key },
      status: 201,
      json: { id, watts },
    });
    const draft = draftSession([
      make('a', 'q8Zt5Lw2Xk', 5),
      make('a', 'q8Zt5Lw2Xk', 5),
      make('b', 'm3Yc7Hd1Sf', 6),
      {
        call: 'GET /lamps',
        json: [
          { id: 'q8Zt5Lw2Xk', watts: 5 },
          { id: 'm3Yc7Hd1Sf', watts: 6 },
        ],
      },
    ]);
    expect(draft.fidelity?.differences).toEqual([]);
    expect(draft.text).toContain('case: sent again');
    expect(draft.decisions).toContainEqual(
      expect.objectContaining({ concluded: 'calls that are sent again get the same answer' }),
    );
  });
});

describe('what a thing may do next', () => {
  test('is told by what it is and what is asked; everything else is refused', () => {
    const lamp = (state: string) => ({ id: 'L1', state });
    const turn = (to: string, status: number): HeardCall => ({
      call: 'POST /lamps/L1/turn',
      sent: { to },
      status,
      json: status === 200 ? lamp(to) : { error: 'not now' },
    });
    const draft = draftSession([
      { call: 'GET /lamps/L1', json: lamp('off') },
      turn('blink', 409),
      turn('on', 200),
      turn('blink', 200),
      turn('on', 409),
      { call: 'GET /lamps/L1', json: lamp('blink') },
    ]);
    expect(draft.fidelity?.differences).toEqual([]);
    expect(draft.decisions).toContainEqual(
      expect.objectContaining({ concluded: '2 different answers, told apart by row state and json $.to' }),
    );
  });
});
