import { describe, expect, test } from 'vitest';
import { draftSession, type HeardCall } from './session.js';

const login = (name: string, token: string): HeardCall => ({
  call: 'POST /login',
  sent: { name, password: 'x' },
  json: { token },
});
const by = (token: string) => ({ authorization: `Bearer ${token}` });
const IDA = 'q8Zt5Lw2Xk9Rb4Vn';
const TOM = 'm3Yc7Hd1Sf6Gj0Pa';

describe('who calls', () => {
  test('is kept where the answers depend on it', () => {
    const draft = draftSession([
      login('Ida', IDA),
      login('Tom', TOM),
      { call: 'GET /me', headers: by(IDA), json: { name: 'Ida' } },
      { call: 'GET /me', headers: by(TOM), json: { name: 'Tom' } },
    ]);
    expect(draft.fidelity?.differences).toEqual([]);
    expect(draft.text).toContain('"callers[Bearer ${answer.json.token}]": "${call.json.name}"');
    expect(draft.text).toContain('name: "${state.callers[call.headers.authorization]}"');
  });

  test('is not followed when the user overrules it', () => {
    const calls: HeardCall[] = [login('Ida', IDA), { call: 'GET /me', headers: by(IDA), json: { name: 'Ida' } }];
    const followed = draftSession(calls);
    expect(followed.decisions).toContainEqual(expect.objectContaining({ id: 'callers' }));
    expect(draftSession(calls, 'alive', { overrules: new Map([['callers', 'no']]) }).text).not.toContain('callers');
  });

  test('is not kept where nothing depends on it', () => {
    const draft = draftSession([login('Ida', IDA), { call: 'GET /lamps', headers: by(IDA), json: ['red', 'green'] }]);
    expect(draft.text).not.toContain('callers');
  });

  test('tells answers apart that no write parts, even when they cannot be explained (as-heard)', () => {
    const calls: HeardCall[] = [login('Ida', IDA), login('Tom', TOM)];
    for (const [token, rank] of [
      [IDA, 'mate'],
      [TOM, 'cook'],
      [IDA, 'mate'],
    ] as const)
      calls.push({ call: 'GET /rank', headers: by(token), json: { rank } });
    for (const level of ['as-heard', 'alive'] as const) {
      const { text, fidelity } = draftSession(calls, level);
      expect(fidelity?.differences).toEqual([]);
      expect(text).not.toContain('turns');
      expect(text).toContain('"state callers[${call.headers.authorization}]": Tom');
    }
  });

  test('is forgotten when a call ends it', () => {
    const draft = draftSession([
      login('Ida', IDA),
      { call: 'GET /me', headers: by(IDA), json: { name: 'Ida' } },
      { call: 'POST /logout', headers: by(IDA), status: 204 },
      { call: 'GET /me', headers: by(IDA), status: 401, json: { error: 'who?' } },
    ]);
    expect(draft.fidelity?.differences).toEqual([]);
    expect(draft.text).toContain('"callers[${call.headers.authorization}]": null');
  });
});

describe('what answers do not say', () => {
  test('things made without being shown are other things when later calls ask for them (as-heard)', () => {
    const made = (id: string, colour: string): HeardCall[] => [
      { call: 'POST /lamps', sent: { colour }, status: 201, got: { location: `/lamps/${id}` } },
      { call: `GET /lamps/${id}`, json: { id, colour } },
    ];
    const { text, fidelity } = draftSession([...made('L7', 'red'), ...made('L8', 'green')], 'as-heard');
    expect(fidelity?.differences).toEqual([]);
    expect(text).toContain('location: /lamps/L8');
  });

  test('what a write was seen to do to one thing it did to those that nobody looked at again', () => {
    const lamp = (id: string, lit: boolean) => ({ id, lit });
    const draft = draftSession([
      { call: 'GET /lamps', json: [lamp('L1', false), lamp('L2', false), lamp('L3', false)] },
      { call: 'PUT /lamps/L1/light', status: 204 },
      { call: 'PUT /lamps/L2/light', status: 204 },
      { call: 'GET /lamps/L2', json: lamp('L2', true) },
      { call: 'GET /lit', json: [{ id: 'L1' }, { id: 'L2' }] },
    ]);
    expect(draft.fidelity?.differences).toEqual([]);
    expect(draft.text).toContain('data.lamps.filter(item, item.lit == true)');
    expect(draft.operations).toBe(4);
    expect(draft.text.match(/lit: true/g)).toHaveLength(1);
  });

  test('a number that is a key counts, though the same number was seen before as something else', () => {
    const draft = draftSession([
      { call: 'GET /lamps', json: [{ id: 1, watts: 2 }] },
      { call: 'POST /lamps', sent: { watts: 3 }, status: 201, json: { id: 2, watts: 3 } },
      { call: 'GET /lamps/2', json: { id: 2, watts: 3 } },
      { call: 'POST /lamps', sent: { watts: 9 }, status: 201, json: { id: 3, watts: 9 } },
      { call: 'GET /lamps/3', json: { id: 3, watts: 9 } },
    ]);
    expect(draft.fidelity?.differences).toEqual([]);
    expect(draft.text).toContain(`id: "\${next('lamp', 2)}"`);
  });
});

describe('a list whose path is named for a field', () => {
  test('lists what is so, even where everything was when it was heard', () => {
    const lamps = [
      { id: 'L1', lit: true },
      { id: 'L2', lit: true },
    ];
    const draft = draftSession([
      { call: 'GET /lamps', json: lamps },
      { call: 'GET /lamps/L1', json: lamps[0] },
      { call: 'GET /lamps/lit', json: lamps },
    ]);
    expect(draft.text).toContain('data.lamps.filter(item, item.lit == true)');
  });
});

describe('a question that is posted', () => {
  test('changes nothing, and its list is filtered by what it asks', () => {
    const lamps = [
      { id: 'L1', colour: 'red' },
      { id: 'L2', colour: 'green' },
    ];
    const search = (colour: string): HeardCall => ({
      call: 'POST /lamps/search',
      sent: { colour },
      json: { lamps: lamps.filter((lamp) => lamp.colour === colour) },
    });
    const draft = draftSession([
      { call: 'GET /lamps', json: lamps },
      { call: 'GET /lamps/L1', json: lamps[0] },
      search('red'),
      search('green'),
    ]);
    expect(draft.fidelity?.differences).toEqual([]);
    expect(draft.text).toContain('data.lamps.filter(item, item.colour == call.json.colour)');
  });

  test('is no question when it makes something', () => {
    const draft = draftSession([
      { call: 'POST /lamps/search', sent: { colour: 'red' }, status: 201, json: { id: 'Sk29fQ0aL1' } },
      { call: 'GET /lamps/search', json: { last: 'Sk29fQ0aL1' } },
    ]);
    expect(draft.fidelity?.differences).toEqual([]);
  });
});
