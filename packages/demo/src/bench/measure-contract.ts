import { UpsetterClient } from '@upsetter/client';
import autocannon from 'autocannon';
import { pairedRatios, type Spread } from './statistics.js';

const CONNECTIONS = 32;
const RULES = ['report', 'refuse'] as const;

/** A booking as boards send it: a dozen members, two levels, formats, an enum. */
const BODY = JSON.stringify({
  berthId: 'N7',
  vessel: { name: 'Petrel', imo: '9321483', length: 96, draught: 5.4, flag: 'SK', type: 'coaster' },
  from: '2026-03-04T08:00:00Z',
  to: '2026-03-05T16:30:00Z',
  crew: [
    { name: 'Ada Lind', role: 'master' },
    { name: 'Tom Reed', role: 'mate' },
    { name: 'Ines Falk', role: 'engineer' },
  ],
  cargo: { kind: 'grain', tonnes: 1250.5, hazardous: false },
  contact: 'board@harbour.example',
});

const CONTRACT = `openapi: 3.1.0
info: { title: Bench, version: "1" }
paths:
  /bookings:
    post:
      parameters: [{ name: quay, in: query, required: true, schema: { enum: [North, South] } }]
      requestBody: { required: true, content: { application/json: { schema: { $ref: "#/components/schemas/Booking" } } } }
      responses: { "201": { description: booked, content: { application/json: { schema: { type: object } } } } }
components:
  schemas:
    Vessel:
      type: object
      required: [name, imo, length]
      properties: { name: { type: string, minLength: 1 }, imo: { type: string, pattern: "^[0-9]{7}$" }, length: { type: integer, minimum: 1 }, draught: { type: number }, flag: { type: string, maxLength: 2 }, type: { enum: [coaster, tanker, ferry] } }
    Member: { type: object, required: [name, role], properties: { name: { type: string }, role: { enum: [master, mate, engineer, cook] } } }
    Booking:
      type: object
      required: [berthId, vessel, from, to]
      additionalProperties: false
      properties:
        berthId: { type: string, pattern: "^[NS][0-9]$" }
        vessel: { $ref: "#/components/schemas/Vessel" }
        from: { type: string, format: date-time }
        to: { type: string, format: date-time }
        crew: { type: array, maxItems: 40, items: { $ref: "#/components/schemas/Member" } }
        cargo: { type: object, properties: { kind: { type: string }, tonnes: { type: number }, hazardous: { type: boolean } } }
        contact: { type: string, format: email }
`;

const serviceFile = (name: string, contract: string): string => `upsetter: 1
service: ${name}
listen: { port: 0 }
${contract}operations:
  createBooking:
    on: POST /bookings
    cases:
      - case: booked
        when: { json $.berthId: { like: "N?" }, query quay: North }
        answer: { status: 201, json: { id: "\${uuid()}", berthId: "\${call.json.berthId}", vessel: "\${call.json.vessel}", bookedAt: "\${now}" } }
`;

export interface ContractCost {
  readonly rule: (typeof RULES)[number];
  /** Throughput with the contract over that without it. */
  readonly ratio: Spread;
}

/** What holding calls against a contract costs: the same service with and without one, in one process, in turn. */
export async function measureContract(control: string, rounds: number, seconds: number): Promise<ContractCost[]> {
  const client = new UpsetterClient(control);
  const save = async (name: string, contract: string): Promise<string> => {
    const files = { './bench.openapi.yaml': { kind: 'text' as const, content: CONTRACT } };
    const { address } = await client.saveService(name, serviceFile(name, contract), { files });
    return address ?? '';
  };
  const plain = await save('bench-plain', '');
  const costs: ContractCost[] = [];
  for (const rule of RULES) {
    const kept = await save(`bench-${rule}`, `contract: { file: ./bench.openapi.yaml, calls: ${rule} }\n`);
    const speeds: { readonly plain: number[]; readonly kept: number[] } = { plain: [], kept: [] };
    await askFor(plain, 1);
    await askFor(kept, 1); // warm-up, not counted
    for (let round = 0; round < rounds; round++) {
      const turns = [['plain', plain] as const, ['kept', kept] as const];
      for (const [name, address] of round % 2 === 0 ? turns : turns.reverse())
        speeds[name].push(await askFor(address, seconds));
    }
    costs.push({ rule, ratio: pairedRatios(speeds.kept, speeds.plain) });
  }
  for (const name of ['bench-plain', ...RULES.map((rule) => `bench-${rule}`)]) await client.removeService(name);
  return costs;
}

async function askFor(address: string, seconds: number): Promise<number> {
  const result = await autocannon({
    url: `${address}/bookings?quay=North`,
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: BODY,
    connections: CONNECTIONS,
    duration: seconds,
  });
  if (result['2xx'] === 0 || result.non2xx > 0) throw new Error(`${address}: ${result.non2xx} wrong answers`);
  return result['2xx'] / result.duration;
}
