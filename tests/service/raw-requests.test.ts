import { connect } from 'node:net';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { startTestUpsetter, type TestUpsetter } from '../support/upsetter.js';

let upsetter: TestUpsetter;
let port: number;

beforeAll(async () => {
  upsetter = await startTestUpsetter();
  const address = await upsetter.serve(
    'gate',
    `
echo: { on: "* /echo", cases: [{ case: told, answer: { text: "<\${call.text}>" } }] }
hidden: { on: "* /hidden", cases: [{ case: reached, answer: { text: reached } }] }
`,
  );
  port = Number(new URL(address).port);
});
afterAll(() => upsetter.stop());

const LONGEST_MS = 5_000;

/** Sends bytes as they are, says no more, and gives all that comes back until the connection ends. */
function sendRaw(bytes: string | Buffer): Promise<string> {
  return new Promise((resolve, reject) => {
    const chunks: Buffer[] = [];
    const socket = connect(port, '127.0.0.1');
    const timer = setTimeout(() => {
      socket.destroy();
      reject(new Error(`no end within ${LONGEST_MS} ms after ${JSON.stringify(String(bytes).slice(0, 200))}`));
    }, LONGEST_MS);
    socket.on('data', (chunk) => chunks.push(chunk));
    // A connection that is cut is an answer, too.
    socket.on('error', () => {});
    socket.on('close', () => {
      clearTimeout(timer);
      resolve(Buffer.concat(chunks).toString('latin1'));
    });
    socket.end(typeof bytes === 'string' ? Buffer.from(bytes, 'latin1') : bytes);
  });
}

const statusesOf = (answer: string) => [...answer.matchAll(/HTTP\/1\.1 (\d{3}) /g)].map(([, status]) => Number(status));
const isAlive = async () => expect(await (await fetch(`http://127.0.0.1:${port}/echo`)).text()).toBe('<>');

describe('a request that is not as it should be', () => {
  const HIDDEN = 'GET /hidden HTTP/1.1\r\nhost: a\r\n\r\n';
  const post = (head: string, body: string) => `POST /echo HTTP/1.1\r\nhost: a\r\n${head}\r\n\r\n${body}`;

  // Source of the shapes: RFC 9112, 6.1, 6.3, 7.1, 11.2 (request smuggling).
  test.each([
    ['both a length and chunks', post('content-length: 6\r\ntransfer-encoding: chunked', `0\r\n\r\n${HIDDEN}`)],
    ['chunks, and a length behind them', post('transfer-encoding: chunked\r\ncontent-length: 4', `0\r\n\r\n${HIDDEN}`)],
    ['two lengths', post(`content-length: 0\r\ncontent-length: ${HIDDEN.length}`, HIDDEN)],
    ['two lengths in one', post('content-length: 0, 5', HIDDEN)],
    ['a length with a sign', post('content-length: +5', HIDDEN)],
    ['a length that is none', post('content-length: five', HIDDEN)],
    ['another coding than chunks', post('transfer-encoding: xchunked', HIDDEN)],
    ['chunks that are not the last coding', post('transfer-encoding: chunked, identity', `0\r\n\r\n${HIDDEN}`)],
    ['a blank before the colon', post('transfer-encoding : chunked', `0\r\n\r\n${HIDDEN}`)],
    ['a line break in a name', post('transfer-\nencoding: chunked', `0\r\n\r\n${HIDDEN}`)],
    ['a folded header', post('x-a: b\r\n transfer-encoding: chunked', '')],
    ['a chunk size that is none', post('transfer-encoding: chunked', `zz\r\n\r\n${HIDDEN}`)],
    ['a chunk size beyond all bounds', post('transfer-encoding: chunked', `ffffffffffffffffff\r\nx\r\n0\r\n\r\n`)],
    ['a negative chunk', post('transfer-encoding: chunked', `-1\r\nx\r\n0\r\n\r\n`)],
    ['a chunk longer than its size', post('transfer-encoding: chunked', `1\r\nxyz\r\n0\r\n\r\n`)],
    ['a header without end', `GET /echo HTTP/1.1\r\nx-long: ${'a'.repeat(200_000)}\r\n\r\n`],
    ['a path without end', `GET /${'a'.repeat(200_000)} HTTP/1.1\r\nhost: a\r\n\r\n`],
    ['thousands of headers', `GET /echo HTTP/1.1\r\n${'x: y\r\n'.repeat(20_000)}\r\n`],
    ['a nul in a header', 'GET /echo HTTP/1.1\r\nhost: a\0b\r\n\r\n'],
    ['a method that is none', 'G{T /echo HTTP/1.1\r\nhost: a\r\n\r\n'],
    ['a version that is none', 'GET /echo HTTP/9.9\r\nhost: a\r\n\r\n'],
    ['the preface of HTTP/2', 'PRI * HTTP/2.0\r\n\r\nSM\r\n\r\n'],
    ['the beginning of TLS', '\x16\x03\x01\x02\x00\x01\x00\x01\xfc\x03\x03'],
    ['nothing at all', ''],
    ['line breaks only', '\r\n\r\n\r\n'],
  ])('by %s is refused or cut, and never leads to a call in its body', async (_title, bytes) => {
    const answer = await sendRaw(bytes);
    expect(answer).not.toContain('reached');
    expect(statusesOf(answer).every((status) => status >= 400 && status < 500)).toBe(true);
    await isAlive();
  });

  test('is answered where it is only unusual', async () => {
    const chunked = post('transfer-encoding: chunked', '3;name=value\r\nabc\r\n0\r\nx-trailer: 1\r\n\r\n');
    expect(await sendRaw(chunked.replace('host', 'connection: close\r\nhost'))).toContain('<abc>');
    expect(
      statusesOf(
        await sendRaw(
          `GET /echo HTTP/1.1\r\nhost: a\r\n\r\nGET /echo HTTP/1.1\r\nhost: a\r\nconnection: close\r\n\r\n`,
        ),
      ),
    ).toEqual([200, 200]);
    expect(
      statusesOf(await sendRaw('GET http://other.example/echo HTTP/1.1\r\nhost: a\r\nconnection: close\r\n\r\n')),
    ).toHaveLength(1);
    expect(statusesOf(await sendRaw('OPTIONS * HTTP/1.1\r\nhost: a\r\nconnection: close\r\n\r\n'))).toHaveLength(1);
    expect(
      await sendRaw('GET /%zz%00%ff/../echo?%=%&&a=b=c#x HTTP/1.1\r\nhost: a\r\nconnection: close\r\n\r\n'),
    ).toContain('HTTP/1.1 404');
    await isAlive();
  });

  test('whose bytes are another ends the same way: 400 of them, the same each time', async () => {
    let seed = 20_261_127;
    const draw = (below: number): number => {
      seed = (Math.imul(seed, 1_103_515_245) + 12_345) >>> 0;
      return (seed >>> 8) % below;
    };
    const SHAPES = [
      post('content-length: 5\r\nupsetter-lane: night', 'hello'),
      post('transfer-encoding: chunked', '5\r\nhello\r\n0\r\n\r\n'),
      post(
        'content-type: multipart/form-data; boundary=x\r\ncontent-length: 20\r\ncontent-encoding: gzip',
        '--x\r\n\r\nhello\r\n--x--',
      ),
      'GET /echo?a=1&b=%20 HTTP/1.1\r\nhost: a\r\naccept: text/*;q=0.3\r\nrange: bytes=0-5\r\ncookie: a=b; c\r\nbaggage: lane=x;y=z\r\n\r\n',
    ];
    const mutate = (shape: string): Buffer => {
      const bytes = [...Buffer.from(shape, 'latin1')];
      for (let i = draw(6); i >= 0; i--) {
        const at = draw(bytes.length);
        if (draw(3) === 0) bytes.splice(at, 1 + draw(4));
        else if (draw(2) === 0) bytes.splice(at, 0, draw(256));
        else bytes[at] = draw(256);
      }
      return Buffer.from(bytes);
    };
    const sent = Array.from({ length: 400 }, (_, i) => mutate(SHAPES[i % SHAPES.length] as string));
    for (let i = 0; i < sent.length; i += 20) {
      const answers = await Promise.all(sent.slice(i, i + 20).map(sendRaw));
      for (const answer of answers) expect(statusesOf(answer).every((status) => status < 500)).toBe(true);
    }
    await isAlive();
    const { calls } = await upsetter.client.listCalls({ service: 'gate', limit: 500 });
    expect(calls.filter(({ trouble }) => trouble?.includes('a mistake of ours'))).toEqual([]);
  });
});
