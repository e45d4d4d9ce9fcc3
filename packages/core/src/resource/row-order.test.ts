import { describe, expect, it } from 'vitest';
import { drawAt } from '../state/draw.js';
import { parseSort, sortSlice } from './row-order.js';

const draw = (i: number, most: number): number => drawAt(7, i) % most;

function madeRows(count: number) {
  return Array.from({ length: count }, (_, i) => ({
    no: i,
    length: draw(i, 50),
    name: `N${draw(i + 9_999, 90)}`,
    odd: [null, 3, 'x', true, undefined][draw(i, 5)],
  }));
}

describe('a sorted part of a list', () => {
  const rows = madeRows(6_000);
  const whole = sortSlice(rows, parseSort('length,-name'), 0, rows.length);

  it('is in the order of its fields, equal rows as they arrived', () => {
    const sorted = rows.toSorted(
      (a, b) => a.length - b.length || (a.name < b.name ? 1 : a.name > b.name ? -1 : 0) || a.no - b.no,
    );
    expect(whole).toEqual(sorted);
  });

  it.each([
    [0, 10],
    [360, 400],
    [995, 1_005],
    [2_995, 3_005],
    [5_990, 6_000],
    [5_999, 9_000],
    [17, 5_400],
  ])('is the same from %i to %i as in the whole list', (from, to) => {
    expect(sortSlice(rows, parseSort('length,-name'), from, to)).toEqual(whole.slice(from, to));
  });

  it('is empty beyond the end', () => {
    expect(sortSlice(rows, parseSort('length'), 6_000, 6_010)).toEqual([]);
    expect(sortSlice([], parseSort('length'), 0, 10)).toEqual([]);
  });

  it.each(['odd', '-odd'])('has what is not there last, by %s', (sort) => {
    const values = sortSlice(rows, parseSort(sort), 0, 6_000).map(({ odd }) => odd ?? null);
    const gone = values.indexOf(null);
    expect(values.slice(gone).every((value) => value === null)).toBe(true);
    expect(values[0]).toBe(sort === 'odd' ? 3 : true);
  });

  it.each(['sorted already', 'all equal', 'in reverse'])('is right for rows that are %s', (how) => {
    const many = Array.from({ length: 5_000 }, (_, no) => ({
      no,
      n: how === 'all equal' ? 1 : how === 'in reverse' ? -no : no,
    }));
    const numbers = sortSlice(many, parseSort('n'), 2_500, 2_503).map(({ no }) => no);
    expect(numbers).toEqual(how === 'in reverse' ? [2_499, 2_498, 2_497] : [2_500, 2_501, 2_502]);
  });
});
