import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import {
  c4Id,
  listFileName,
  readChain,
  readHashList,
  writeChain,
  writeHashList,
  type HashList,
} from '@larder/core/interchange/mhl';

const c4Of = (text: string) => c4Id(createHash('sha512').update(text).digest());

describe('C4 IDs', () => {
  // SMPTE ST 2114; the ID of no bytes is the one that the standard's authors print (from memory).
  it('of nothing is the published one', () =>
    expect(c4Of('')).toBe(
      'c459dsjfscH38cYeXXYogktxf4Cd9ibshE3BHUo6a58hBXmRQdZrAkZzsWcbWtDg5oQstpDuni4Hirj75GEmTc1sFT',
    ));
  it('are always 90 characters, also where the number is small', () => {
    expect(c4Id(new Uint8Array(64))).toBe(`c4${'1'.repeat(88)}`);
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 64, maxLength: 64 }), (digest) => {
        const id = c4Id(digest);
        expect(id).toMatch(/^c4[1-9A-HJ-NP-Za-km-z]{88}$/);
        const digits = '123456789ABCDEFGHJKLMNPQRSTUVWXYZabcdefghijkmnopqrstuvwxyz';
        const back = [...id.slice(2)].reduce((sum, digit) => sum * 58n + BigInt(digits.indexOf(digit)), 0n);
        expect(back).toBe(BigInt(`0x${Buffer.from(digest).toString('hex')}`));
      }),
    );
  });
});

const list = (changes: Partial<HashList> = {}): HashList => ({
  createdMs: Date.UTC(2026, 10, 25, 16, 15),
  hostName: 'dit.local',
  tool: { name: 'Neat Larder', version: '0.1.0' },
  process: 'transfer',
  ignored: ['.DS_Store', 'ascmhl', 'ascmhl/'],
  entries: [],
  ...changes,
});

describe('hash lists', () => {
  // The layout of the example in the published ASC MHL 2.0 specification, from memory; its two hashes are xxHash64 of
  // `abcd` and `def` with a line feed, which the server's tests compute.
  it('reads the layout that the specification prints', () => {
    const { list: read, issues } = readHashList(readFileSync(join(__dirname, 'cases/example.mhl'), 'utf8'));
    expect(issues).toEqual([]);
    expect(read).toMatchObject({
      hostName: 'myHost.local',
      tool: { name: 'a tool', version: '0.3 alpha' },
      process: 'in-place',
      ignored: ['.DS_Store', 'ascmhl', 'ascmhl/'],
    });
    expect(read?.entries).toEqual([
      {
        path: 'Clips/A002C006_141024_R2EC.mov',
        bytes: 5,
        modifiedMs: Date.UTC(2020, 0, 15, 13),
        hashes: [
          { element: 'xxh64', value: '0ea03b369a463d9d', action: 'original', atMs: Date.UTC(2020, 0, 16, 9, 15) },
        ],
      },
      expect.objectContaining({ path: 'Clips/A002C007_141024_R2EC.mov', bytes: 4 }),
    ]);
  });

  it('come back as they were written, whatever is in a name', () => {
    const anyText = fc.string({ unit: 'grapheme', minLength: 1, maxLength: 30 }).filter((name) => name.trim() === name);
    const anyPath = fc
      .array(fc.oneof(anyText, fc.constantFrom('a&b', '<x>', '"q"', "o'clock", 'line\nbreak', 'ß ü 語')), {
        minLength: 1,
        maxLength: 3,
      })
      .map((steps) => steps.map((step) => step.replace(/[/\ufffe\uffff]|(?![\t\n\r])\p{Cc}/gu, '_')).join('/'))
      .filter((path) => !path.split('/').includes('..') && path.trim() === path && path !== '');
    fc.assert(
      fc.property(
        fc.array(fc.tuple(anyPath, fc.nat(), fc.bigInt({ min: 0n, max: 2n ** 64n - 1n })), { maxLength: 5 }),
        (files) => {
          const entries = files.map(([path, bytes, hash]) => ({
            path,
            bytes,
            modifiedMs: Date.UTC(2026, 1, 3),
            hashes: [
              {
                element: 'xxh64' as const,
                value: hash.toString(16).padStart(16, '0'),
                action: 'original' as const,
                atMs: Date.UTC(2026, 1, 4),
              },
            ],
          }));
          expect(readHashList(writeHashList(list({ entries })))).toEqual({ list: list({ entries }), issues: [] });
        },
      ),
    );
  });

  it.each([
    ['', 'not-xml'],
    ['<!DOCTYPE x [<!ENTITY a "b">]><hashlist version="2.0"/>', 'not-xml'],
    ['<html/>', 'not-mhl'],
    ['<hashlist version="1.1"><hash/></hashlist>', 'version'],
  ])('“%s” is refused: %s', (document, code) => {
    const { list: read, issues } = readHashList(document);
    expect(read).toBeNull();
    expect(issues[0]?.code).toBe(document === '' ? 'not-mhl' : code);
  });

  it('an entry that leads out of the folder, or has no hash, is said and left out', () => {
    const entry = (path: string, hash: string) => `<hash><path size="1">${path}</path>${hash}</hash>`;
    const { list: read, issues } = readHashList(
      `<hashlist version="2.0"><hashes>${entry('../x', '<md5>1</md5>')}${entry('a', '')}${entry('b', '<md5>2</md5>')}</hashes></hashlist>`,
    );
    expect(read?.entries.map(({ path }) => path)).toEqual(['b']);
    expect(issues).toEqual([
      { code: 'entry', index: 0, what: 'path' },
      { code: 'entry', index: 1, what: 'hash' },
    ]);
  });
});

describe('a history', () => {
  it('names its generations by number, folder and time', () =>
    expect(listFileName(1, 'A002R2EC', Date.UTC(2020, 0, 16, 9, 15))).toBe('0001_A002R2EC_2020-01-16_091500Z.mhl'));
  it('is chained by C4 IDs, and read back', () => {
    const links = [
      { generation: 1, path: '0001_A_2026-01-01_000000Z.mhl', c4: c4Of('one') },
      { generation: 2, path: '0002_A & B_2026-01-01_000000Z.mhl', c4: c4Of('two') },
    ];
    expect(readChain(writeChain(links))).toEqual(links);
    expect(readChain('nonsense')).toEqual([]);
  });
});
