import { describe, expect, test } from 'vitest';
import { draftTraffic, mergeDraft, type ServiceText } from '../src/index.js';
import { exchangeOf, type HeardJson } from './exchange-of.js';
import { answerJson, load } from './support.js';

const asText = (text: string): ServiceText => ({ text, files: {} });

function draftOf(heard: readonly HeardJson[]): string {
  const exchanges = heard.map((one, index) => exchangeOf({ ...one, index }));
  return draftTraffic(exchanges, { service: 'lamps', origin: null, port: null, level: 'as-heard' }).text;
}

const LIT: HeardJson = { path: '/lamps?quay=north', json: { lit: 3 } };
const DARK: HeardJson = { path: '/lamps?quay=south', json: { lit: 0 } };
const DIM: HeardJson = { path: '/lamps?quay=west', json: { lit: 1 } };

describe('a newer draft merged into a file', () => {
  test('adds what is new, in its place, and drafts anew what nobody touched', () => {
    const first = draftOf([LIT, DARK]);
    const next = draftOf([{ ...LIT, json: { lit: 4 } }, DIM, DARK, { path: '/keeper', json: { name: 'Ida' } }]);
    const merged = mergeDraft(asText(first), asText(next));
    expect(merged).toMatchObject({
      added: ['listLamps / west', 'readKeeper'],
      changed: ['listLamps / north'],
      kept: [],
      conflicts: [],
    });
    const service = load(merged.text);
    expect(service.operations[0]?.cases.map(({ name }) => name)).toEqual(['north', 'west', 'south']);
    expect(answerJson(service, 'GET /lamps?quay=north')).toEqual({ lit: 4 });
  });

  test('keeps what was edited by hand, comments too, and lists it when it is drafted otherwise now', () => {
    const first = draftOf([LIT, DARK]);
    const edited = first.replace('lit: 3', 'lit: 99 # as the harbour master says').replace('lit: 0', 'lit: 5');
    const merged = mergeDraft(asText(edited), asText(draftOf([{ ...LIT, json: { lit: 4 } }, DARK])));
    expect(merged).toMatchObject({
      added: [],
      changed: [],
      kept: ['listLamps / south'],
      conflicts: ['listLamps / north'],
    });
    expect(merged.text).toContain('lit: 99 # as the harbour master says');
    // Told once: the same draft again finds nothing to say about it but that it was edited.
    expect(mergeDraft(merged, asText(draftOf([{ ...LIT, json: { lit: 4 } }, DARK])))).toMatchObject({
      conflicts: [],
      kept: ['listLamps / north', 'listLamps / south'],
    });
  });

  test('finds an operation by its address when its name was changed, and takes nothing away', () => {
    const first = draftOf([LIT, DARK]).replace('  listLamps:', '  lampsOfAQuay:');
    const merged = mergeDraft(asText(first), asText(draftOf([DIM, { ...DARK }])));
    expect(merged.added).toEqual(['lampsOfAQuay / west']);
    expect(load(merged.text).operations.map(({ name }) => name)).toEqual(['lampsOfAQuay']);
    expect(answerJson(load(merged.text), 'GET /lamps?quay=north')).toEqual({ lit: 3 });
  });

  test('of the same draft changes nothing', () => {
    const first = draftOf([LIT, DARK, DIM]);
    expect(mergeDraft(asText(first), asText(first))).toMatchObject({ added: [], changed: [], kept: [], conflicts: [] });
    expect(load(mergeDraft(asText(first), asText(first)).text).operations).toHaveLength(1);
  });
});
