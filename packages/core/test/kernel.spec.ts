import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import wabt from 'wabt';
import { addUp, type GroupColumn } from '../src/search/add-up';
import { bitsFor, countBoth, hasBit, listBits, setBit } from '../src/search/bits';
import { Kernel } from '../src/search/kernel';
import { KERNEL_CODE } from '../src/search/kernel-code';

const universe = fc.integer({ min: 1, max: 200 });
const bitsOf = (docs: readonly number[], size: number) => {
  const bits = bitsFor(size);
  for (const doc of docs) setBit(bits, doc);
  return bits;
};
const kernelOf = (size: number): Kernel => {
  const kernel = Kernel.of(size);
  if (!kernel) throw new Error('this Node has no WebAssembly with vectors');
  return kernel;
};
/** Arrays of ten thousands are compared as bytes: letter by letter takes the test's whole time. */
const same = (a: Uint32Array, b: Uint32Array): boolean => Buffer.from(a.buffer).equals(Buffer.from(b.buffer));
const some = (size: number, max = 300) => fc.uniqueArray(fc.nat(size - 1), { maxLength: max });

describe('the counting kernel, against its twins in TypeScript', () => {
  it('ships as what its text says', async () => {
    const { parseWat } = await wabt();
    const text = readFileSync(join(__dirname, '../src/search/kernel.wat'), 'utf8');
    const { buffer } = parseWat('kernel.wat', text, { simd: true }).toBinary({});
    expect(Buffer.from(buffer).toString('base64')).toBe(KERNEL_CODE);
  });

  it('counts sets and lists', () =>
    fc.assert(
      fc.property(
        universe.chain((size) => fc.tuple(fc.constant(size), some(size), some(size), some(size))),
        ([size, a, b, listed]) => {
          const kernel = kernelOf(size);
          const [found, other] = [bitsOf(a, size), bitsOf(b, size)];
          const list = Uint32Array.from(listed).sort();
          const [at, listAt] = [kernel.place(other), kernel.place(list)];
          const both = a.filter((doc) => b.includes(doc)).length;
          expect(kernel.countBoth(at, found)).toBe(both);
          expect(countBoth(found, other)).toBe(both);
          const inList = listed.filter((doc) => a.includes(doc)).length;
          expect(kernel.countList(listAt, listAt + list.byteLength, found)).toBe(inList);
          expect(kernel.hasList(listAt, listAt + list.byteLength, found)).toBe(inList > 0);
          // Another set in the same kernel.
          expect(kernel.countBoth(at, other)).toBe(b.length);
          expect(listBits(found)).toEqual(Uint32Array.from(a).sort());
          expect(a.every((doc) => hasBit(found, doc))).toBe(true);
        },
      ),
    ));

  it.each([
    ['8', Uint8Array, 200],
    ['16', Uint16Array, 3000],
    ['32', Uint32Array, 66_000],
  ] as const)('adds up columns of %s bits, of one thing said and of several', (_bits, kind, groups) =>
    fc.assert(
      fc.property(
        universe.chain((size) =>
          fc.tuple(
            fc.constant(size),
            some(size),
            fc.array(fc.array(fc.nat(groups - 1), { maxLength: 4 }), { minLength: size, maxLength: size }),
          ),
        ),
        ([size, docs, said]) => {
          const kernel = kernelOf(size);
          const found = bitsOf(docs, size);
          const starts = new Uint32Array(size + 1);
          said.forEach((each, doc) => (starts[doc + 1] = (starts[doc] as number) + each.length));
          const columns: GroupColumn[] = [
            {
              numbers: kind.from(said.map(([first]) => (first === undefined ? 0 : first + 1))),
              starts: null,
              items: null,
            },
            { numbers: null, starts, items: kind.from(said.flat()) },
          ];
          for (const column of columns) {
            const wanted = new Uint32Array(groups + 1);
            addUp(column, Uint32Array.from(docs), wanted);
            // Twice, as what was counted before must not be in it.
            expect(same(kernel.addUp(column, found, groups), wanted)).toBe(true);
            expect(same(kernel.addUp(column, found, groups), wanted)).toBe(true);
          }
        },
      ),
      { numRuns: 25 },
    ),
  );
});
