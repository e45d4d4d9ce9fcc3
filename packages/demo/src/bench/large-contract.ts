const OPERATIONS = 1_000;
const FIELDS = 24;

/** A contract of about 10 MB and a thousand operations: each with schemas of its own that refer to one another, in circles, too. */
export function makeLargeContract(): string {
  const paths: Record<string, unknown> = {};
  const schemas: Record<string, unknown> = {};
  for (let i = 0; i < OPERATIONS / 2; i++) {
    paths[`/quays/${i}/berths/{berthId}`] = {
      get: { operationId: `readBerth${i}`, parameters: [PATH], responses: answersOf(i) },
      put: {
        operationId: `changeBerth${i}`,
        parameters: [PATH],
        requestBody: { required: true, content: { 'application/json': { schema: refTo(`Berth${i}`) } } },
        responses: answersOf(i),
      },
    };
    schemas[`Berth${i}`] = berthOf(i);
    schemas[`Booking${i}`] = bookingOf(i);
  }
  schemas['Problem'] = { type: 'object', required: ['title'], properties: { title: { type: 'string' } } };
  return JSON.stringify({
    openapi: '3.1.0',
    info: { title: 'Many quays', version: '1' },
    paths,
    components: { schemas },
  });
}

const PATH = { name: 'berthId', in: 'path', required: true, schema: { type: 'string', pattern: '^[NS][0-9]$' } };
const refTo = (name: string) => ({ $ref: `#/components/schemas/${name}` });

function answersOf(i: number) {
  return {
    200: { description: 'The berth', content: { 'application/json': { schema: refTo(`Berth${i}`) } } },
    404: { description: 'No such berth', content: { 'application/problem+json': { schema: refTo('Problem') } } },
  };
}

function berthOf(i: number) {
  const fields = Object.fromEntries(
    Array.from({ length: FIELDS }, (_, k) => [
      `depth${k}`,
      { type: 'number', minimum: k, maximum: k + 40, description: WORDS.repeat(4) },
    ]),
  );
  return {
    type: 'object',
    required: ['id', 'quay'],
    description: WORDS.repeat(8),
    properties: {
      id: { type: 'string' },
      quay: { enum: ['North', 'South'] },
      neighbours: { type: 'array', items: refTo(`Berth${i}`) },
      next: refTo(`Berth${nextInCircle(i)}`),
      bookings: { type: 'array', items: refTo(`Booking${i}`) },
      ...fields,
    },
  };
}

/** Quays are in circles of ten. */
function nextInCircle(i: number): number {
  const CIRCLE = 10;
  return i - (i % CIRCLE) + ((i + 1) % CIRCLE);
}

function bookingOf(i: number) {
  const fields = Object.fromEntries(
    Array.from({ length: FIELDS }, (_, k) => [
      `at${k}`,
      { type: 'string', format: 'date-time', description: WORDS.repeat(4) },
    ]),
  );
  return { type: 'object', required: ['berth'], properties: { berth: refTo(`Berth${i}`), ...fields } };
}

const WORDS = 'How deep the water is at the lowest tide of the year, as measured from the quay. ';
