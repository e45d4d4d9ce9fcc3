import { createHash, randomBytes } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { mkdtemp, open, readFile, rm, writeFile } from 'node:fs/promises';
import { get, type IncomingMessage } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { interrupt, type Started, startCommand, upsetter } from '../support/command.js';

const PIECE = randomBytes(1_000_000);
const PIECES = 120;
const SIZE = PIECE.length * PIECES;
const SERVICE = `upsetter: 1
service: charts
operations:
  whole: { on: GET /whole, cases: [{ case: sent, answer: { file: ./chart.bin } }] }
  parts: { on: GET /parts, cases: [{ case: sent, answer: { file: ./chart.bin, headers: { content-type: image/tiff }, serve: [range] } }] }
`;

let directory: string;
let started: Started;
let address: string;

beforeAll(async () => {
  directory = await mkdtemp(join(tmpdir(), 'upsetter-large-'));
  const file = await open(join(directory, 'chart.bin'), 'w');
  for (let i = 0; i < PIECES; i++) await file.write(PIECE);
  await file.close();
  await writeFile(join(directory, 'charts.yaml'), SERVICE);
  started = await startCommand(['run', join(directory, 'charts.yaml'), '--port', '0']);
  address = started.services['charts'] ?? '';
});
afterAll(async () => {
  await interrupt(started);
  await rm(directory, { recursive: true });
});

interface Received {
  readonly status: number;
  readonly headers: IncomingMessage['headers'];
  readonly bytes: number;
  readonly sha256: string;
}

/** One call, whose body is counted and digested as it comes. */
function ask(path: string, headers: Record<string, string> = {}): Promise<Received> {
  return new Promise((resolve, reject) => {
    get(`${address}${path}`, { headers, agent: false }, (response) => {
      const hash = createHash('sha256');
      let bytes = 0;
      response.on('data', (chunk: Buffer) => {
        hash.update(chunk);
        bytes += chunk.length;
      });
      response.on('end', () =>
        resolve({ status: response.statusCode ?? 0, headers: response.headers, bytes, sha256: hash.digest('hex') }),
      );
      response.on('error', reject);
    }).on('error', reject);
  });
}

/** The most memory that the service ever had, in kB. Source: proc(5). */
const peakKb = (): number =>
  Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${started.child.pid}/status`, 'utf8'))?.[1] ?? 0);

test('a body of 120 MB is sent from its file, whole, and the service does not grow by it', async () => {
  const whole = createHash('sha256');
  for (let i = 0; i < PIECES; i++) whole.update(PIECE);
  const expected = whole.digest('hex');
  await ask('/parts', { range: 'bytes=0-9' });
  const before = peakKb();
  const received = await Promise.all([ask('/whole'), ask('/whole'), ask('/parts')]);
  for (const { status, bytes, sha256 } of received)
    expect({ status, bytes, sha256 }).toEqual({ status: 200, bytes: SIZE, sha256: expected });
  expect(received[0]?.headers).toMatchObject({
    'content-type': 'application/octet-stream',
    'content-length': String(SIZE),
  });
  expect(peakKb() - before).toBeLessThan(60_000);
});

test('parts of it are sent', async () => {
  const part = await ask('/parts', { range: 'bytes=999990-1000009' });
  const bytes = Buffer.concat([PIECE.subarray(-10), PIECE.subarray(0, 10)]);
  expect(part).toMatchObject({
    status: 206,
    headers: {
      'content-range': `bytes 999990-1000009/${SIZE}`,
      'content-type': 'image/tiff',
      'accept-ranges': 'bytes',
    },
    sha256: createHash('sha256').update(bytes).digest('hex'),
  });
  expect(await ask('/parts', { range: 'bytes=-5' })).toMatchObject({ status: 206, bytes: 5 });
  expect(await ask('/parts', { range: `bytes=${SIZE}-` })).toMatchObject({
    status: 416,
    headers: { 'content-range': `bytes */${SIZE}` },
  });
  expect(await ask('/whole', { range: 'bytes=0-9' })).toMatchObject({ status: 200, bytes: SIZE });
});

test('several parts of it come as multipart/byteranges, but more than 20 as the whole', async () => {
  const head = (range: string) =>
    `--upsetter-part\r\ncontent-type: image/tiff\r\ncontent-range: bytes ${range}/${SIZE}\r\n\r\n`;
  const large = Buffer.alloc(3_000_000);
  for (let i = 0; i < 3; i++) PIECE.copy(large, i * PIECE.length);
  const body = Buffer.concat([
    Buffer.from(head('2-4')),
    PIECE.subarray(2, 5),
    Buffer.from(`\r\n${head('5000000-7999999')}`),
    large,
    Buffer.from(`\r\n--upsetter-part--\r\n`),
  ]);
  expect(await ask('/parts', { range: 'bytes=2-4, 5000000-7999999' })).toMatchObject({
    status: 206,
    headers: {
      'content-type': 'multipart/byteranges; boundary=upsetter-part',
      'content-length': String(body.length),
    },
    sha256: createHash('sha256').update(body).digest('hex'),
  });
  const many = Array.from({ length: 21 }, (_, i) => `${i * 10}-${i * 10 + 1}`).join(',');
  expect(await ask('/parts', { range: `bytes=${many}` })).toMatchObject({ status: 200, bytes: SIZE });
});

test('a caller that leaves in the middle is no trouble', async () => {
  await new Promise<void>((resolve) => {
    const outgoing = get(`${address}/whole`, { agent: false }, (response) => {
      response.once('data', () => outgoing.destroy());
      response.on('error', () => {});
      response.on('close', () => resolve());
    });
    outgoing.on('error', () => {});
  });
  expect(await ask('/parts', { range: 'bytes=0-0' })).toMatchObject({ status: 206, bytes: 1 });
});

test('what needs its bytes says that they are too many; a file that is gone is told to the caller', async () => {
  await writeFile(join(directory, 'text.yaml'), SERVICE.replaceAll('file: ./chart.bin', 'base64: ./chart.bin'));
  const refused = await upsetter(['run', join(directory, 'text.yaml'), '--port', '0']);
  expect(refused).toMatchObject({ code: 2, err: expect.stringContaining('./chart.bin is too large to be read') });
  const shown = await upsetter(['export', 'charts', join(directory, 'out'), '--control', started.control]);
  expect(shown.code).toBe(0);
  expect((await readFile(join(directory, 'out', 'chart.bin'))).length).toBe(SIZE);
  await rm(join(directory, 'chart.bin'));
  expect(await ask('/whole')).toMatchObject({ status: 500 });
});
