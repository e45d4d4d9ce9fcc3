import { describe, expect, it } from 'vitest';
import { applyJsonPatch, mergePatch } from '../src/resource/patch-row.js';

// Source: RFC 7396, appendix A, in its order.
const MERGES: readonly (readonly [target: unknown, patch: unknown, result: unknown])[] = [
  [{ a: 'b' }, { a: 'c' }, { a: 'c' }],
  [{ a: 'b' }, { b: 'c' }, { a: 'b', b: 'c' }],
  [{ a: 'b' }, { a: null }, {}],
  [{ a: 'b', b: 'c' }, { a: null }, { b: 'c' }],
  [{ a: ['b'] }, { a: 'c' }, { a: 'c' }],
  [{ a: 'c' }, { a: ['b'] }, { a: ['b'] }],
  [{ a: { b: 'c' } }, { a: { b: 'd', c: null } }, { a: { b: 'd' } }],
  [{ a: [{ b: 'c' }] }, { a: [1] }, { a: [1] }],
  [
    ['a', 'b'],
    ['c', 'd'],
    ['c', 'd'],
  ],
  [{ a: 'b' }, ['c'], ['c']],
  [{ a: 'foo' }, null, null],
  [{ a: 'foo' }, 'bar', 'bar'],
  [{ e: null }, { a: 1 }, { e: null, a: 1 }],
  [[1, 2], { a: 'b', c: null }, { a: 'b' }],
  [{}, { a: { bb: { ccc: null } } }, { a: { bb: {} } }],
];

// Source: RFC 6902, appendix A; null: the patch is refused, and nothing of it is done.
const PATCHES: readonly (readonly [title: string, target: unknown, patch: readonly object[], result: unknown])[] = [
  ['A.1 adds a member', { foo: 'bar' }, [{ op: 'add', path: '/baz', value: 'qux' }], { baz: 'qux', foo: 'bar' }],
  [
    'A.2 adds an element',
    { foo: ['bar', 'baz'] },
    [{ op: 'add', path: '/foo/1', value: 'qux' }],
    { foo: ['bar', 'qux', 'baz'] },
  ],
  ['A.3 removes a member', { baz: 'qux', foo: 'bar' }, [{ op: 'remove', path: '/baz' }], { foo: 'bar' }],
  [
    'A.4 removes an element',
    { foo: ['bar', 'qux', 'baz'] },
    [{ op: 'remove', path: '/foo/1' }],
    { foo: ['bar', 'baz'] },
  ],
  [
    'A.5 replaces a value',
    { baz: 'qux', foo: 'bar' },
    [{ op: 'replace', path: '/baz', value: 'boo' }],
    { baz: 'boo', foo: 'bar' },
  ],
  [
    'A.6 moves a value',
    { foo: { bar: 'baz', waldo: 'fred' }, qux: { corge: 'grault' } },
    [{ op: 'move', from: '/foo/waldo', path: '/qux/thud' }],
    { foo: { bar: 'baz' }, qux: { corge: 'grault', thud: 'fred' } },
  ],
  [
    'A.7 moves an element',
    { foo: ['all', 'grass', 'cows', 'eat'] },
    [{ op: 'move', from: '/foo/1', path: '/foo/3' }],
    { foo: ['all', 'cows', 'eat', 'grass'] },
  ],
  [
    'A.8 tests a value',
    { baz: 'qux', foo: ['a', 2, 'c'] },
    [
      { op: 'test', path: '/baz', value: 'qux' },
      { op: 'test', path: '/foo/1', value: 2 },
    ],
    { baz: 'qux', foo: ['a', 2, 'c'] },
  ],
  ['A.9 fails by a test', { baz: 'qux' }, [{ op: 'test', path: '/baz', value: 'bar' }], null],
  [
    'A.10 adds a nested member',
    { foo: 'bar' },
    [{ op: 'add', path: '/child', value: { grandchild: {} } }],
    { foo: 'bar', child: { grandchild: {} } },
  ],
  [
    'A.11 leaves unknown members of an operation alone',
    { foo: 'bar' },
    [{ op: 'add', path: '/baz', value: 'qux', xyz: 123 }],
    { foo: 'bar', baz: 'qux' },
  ],
  ['A.12 fails where the target is not there', { foo: 'bar' }, [{ op: 'add', path: '/baz/bat', value: 'qux' }], null],
  ['A.14 reads ~01 as ~1', { '/': 9, '~1': 10 }, [{ op: 'test', path: '/~01', value: 10 }], { '/': 9, '~1': 10 }],
  ['A.15 tells texts from numbers', { '/': 9, '~1': 10 }, [{ op: 'test', path: '/~01', value: '10' }], null],
  [
    'A.16 adds a list',
    { foo: ['bar'] },
    [{ op: 'add', path: '/foo/-', value: ['abc', 'def'] }],
    { foo: ['bar', ['abc', 'def']] },
  ],
];

describe('a merge patch', () => {
  it.each(MERGES)('makes of %j by %j what RFC 7396 says', (target, patch, result) => {
    expect(mergePatch(target, patch)).toEqual(result);
  });

  it('takes __proto__ for a member like any other', () => {
    const merged = mergePatch({}, JSON.parse('{"__proto__": {"raised": true}}')) as object;
    expect(Object.getPrototypeOf(merged)).toBe(Object.prototype);
    expect(Object.hasOwn(merged, '__proto__')).toBe(true);
    expect('raised' in {}).toBe(false);
  });
});

describe('a JSON patch', () => {
  it.each(PATCHES)('%s', (_title, target, patch, result) => {
    const before = structuredClone(target);
    const patched = applyJsonPatch(target, patch);
    expect(patched.kind === 'patched' ? patched.value : null).toEqual(result);
    expect(target).toEqual(before);
  });

  it('says which operation cannot be done', () => {
    const patch = [
      { op: 'test', path: '/a', value: 1 },
      { op: 'remove', path: '/b' },
    ];
    expect(applyJsonPatch({ a: 1 }, patch)).toMatchObject({ reason: expect.stringContaining('operation 2: ') });
  });

  it('is refused when its copies would grow without end', () => {
    const patch = Array.from({ length: 60 }, (_, i) => ({ op: 'copy', from: '', path: `/copy${i}` }));
    expect(applyJsonPatch({ name: 'Petrel' }, patch)).toMatchObject({ kind: 'refused', reason: /2 MB/ });
  });

  it.each([
    ['a path into the prototype', [{ op: 'add', path: '/__proto__/raised', value: true }]],
    ['a path from the prototype', [{ op: 'copy', from: '/__proto__', path: '/x' }]],
    ['an operation that there is not', [{ op: 'sink', path: '/a' }]],
    ['an operation that is no map', [null]],
    ['a map', { op: 'add', path: '/a', value: 1 }],
  ])('is refused where it is %s', (_title, patch) => {
    expect(applyJsonPatch({ a: 1 }, patch).kind).toBe('refused');
    expect('raised' in {}).toBe(false);
  });
});
