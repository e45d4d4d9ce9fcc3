import { expect, test } from 'vitest';
import { requireService, runTrial, type TriedStep } from '../src/index.js';

const FILE = `upsetter: 1
service: quay
state: { held: {}, released: {} }
datasets: { bookings: { key: id } }
operations:
  release:
    on: POST /bookings/{id}/release
    row: { of: bookings, where: { id: "\${call.path.id}" } }
    cases:
      - case: not held
        when: { "state held[\${call.path.id}]": { present: false } }
        answer: { status: 409, json: { title: hold it first } }
      - case: released
        answer: { status: 200, json: { id: "\${call.path.id}" } }
        then: [{ set: { "released[\${call.path.id}]": true } }]
  hold:
    on: POST /bookings/{id}/hold
    row: { of: bookings, where: { id: "\${call.path.id}" } }
    cases:
      - case: held
        when: { row: { present: true } }
        answer: { status: 200, json: { id: "\${call.path.id}" } }
        then: [{ set: { "held[\${call.path.id}]": true } }]
  read:
    on: GET /bookings/{id}
    row: { of: bookings, where: { id: "\${call.path.id}" } }
    cases:
      - case: unknown
        when: { row: { present: false } }
        answer: { status: 404, none: true }
      - case: released
        when: { "state released[\${call.path.id}]": true }
        answer: { json: { id: "\${row.id}", state: released } }
      - case: booked
        answer: { json: { id: "\${row.id}", state: booked } }
  book:
    on: POST /bookings
    cases:
      - case: booked
        let: { booking: "\${{'id': 'B' + string(next('booking'))}}" }
        answer: { status: 201, json: "\${let.booking}" }
        then: [{ insert: { into: bookings, row: "\${let.booking}" } }]
  never:
    on: GET /never
    cases: [{ case: never, when: { expr: "1 == 2" }, answer: { none: true } }]
`;

async function run(writes: boolean): Promise<TriedStep[]> {
  const steps: TriedStep[] = [];
  const send = async ({ method, target }: { method: string; target: string }) => {
    const made = target === '/bookings' && method === 'POST';
    const id = made ? 'real-7' : (target.split('/')[2] ?? '');
    const body = JSON.stringify({ id, state: 'any', title: 'any' });
    const answer = { status: made ? 201 : 200, headers: ['content-type', 'application/json'], body };
    return { answer, tookMs: 1 };
  };
  const options = { writes, hostile: false, environment: 'default' };
  for await (const step of runTrial(requireService(FILE), options, send)) steps.push(step);
  return steps;
}

test('cases that only state leads to are sent after the calls that lead to it, with the ids that were made', async () => {
  const steps = await run(true);
  const sent = steps.map((step) => `${step.operation} / ${step.name}: ${step.request?.target ?? step.outcome}`);
  expect(sent).toContain('read / booked: /bookings/real-7');
  expect(sent).toContain('never / never: not tried');
  const at = (text: string) => sent.findIndex((own) => own.startsWith(text));
  expect(at('book / booked')).toBeLessThan(at('read / booked'));
  expect(at('read / booked')).toBeLessThan(at('hold / held'));
  expect(at('hold / held')).toBeLessThan(at('release / released'));
  expect(at('release / released')).toBeLessThan(at('read / released'));
  expect(at('read / booked')).toBeGreaterThan(0);
});

test('without writes they are not sent, and say why', async () => {
  const steps = await run(false);
  expect(steps.filter(({ outcome }) => outcome !== 'not tried').map(({ name }) => name)).toEqual(['unknown']);
  expect(steps.find(({ operation, name }) => operation === 'hold' && name === 'held')?.reason).toMatch(
    /--writes makes the calls/,
  );
});
