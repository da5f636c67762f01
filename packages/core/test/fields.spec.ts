import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import fc from 'fast-check';
import {
  assetEditSchema,
  BUILT_IN,
  FIELD_GROUPS,
  FIELD_TYPES,
  FIELDS,
  fold,
  keptValue,
  sameValue,
  TAG_LIMIT,
  tagSchema,
  TITLE_LIMIT,
  typedValue,
  valueText,
  words,
  type Field,
  type SetValue,
} from '@larder/core/fields';

const fields: readonly Field[] = FIELDS;

/** The names that a published vocabulary defines below an address. */
function namesOf(vocabulary: string, address: string): ReadonlySet<string> {
  const folder = dirname(require.resolve(`@vocabulary/${vocabulary}/package.json`));
  const text = readFileSync(join(folder, `${vocabulary}.nq`), 'utf8');
  const subjects = [...text.matchAll(/^<([^>]+)>/gm)].flatMap(([, subject = '']) =>
    subject.startsWith(address) ? [subject.slice(address.length)] : [],
  );
  return new Set(subjects);
}

/** ISO 15836-1: the fifteen elements, and ISO 15836-2: the DCMI terms; as DCMI publishes them in RDF. */
const ELEMENTS = namesOf('dc11', 'http://purl.org/dc/elements/1.1/');
const TERMS = namesOf('dcterms', 'http://purl.org/dc/terms/');
/** The EBUCore ontology as the EBU publishes it. */
const EBUCORE = namesOf('ebucore', 'http://www.ebu.ch/metadata/ontologies/ebucore/ebucore#');
/** Elements of the iXML specification that the registry maps to; from memory, not from the published text. */
const IXML = ['CIRCLED', 'NOTE', 'PROJECT', 'SCENE', 'SPEED', 'TAKE', 'TAPE', 'UBITS'];

describe('the registry of fields', () => {
  it('knows each field by one name, whatever its case, and no two by the same', () => {
    const names = fields.flatMap(({ id, aliases = [] }) => [id, ...aliases]);
    expect(new Set(names).size).toBe(names.length);
    for (const field of fields)
      for (const name of [field.id, field.id.toUpperCase(), ...(field.aliases ?? [])])
        expect(BUILT_IN.named(name)?.id).toBe(field.id);
    expect(BUILT_IN.named('colour of the sky')).toBeUndefined();
  });
  it('says of each what it is, how it is kept, and helps in a sentence', () => {
    for (const { id, label, type, group, help, choices } of fields) {
      expect(id).toMatch(/^[a-z]+$/);
      expect(label).toMatch(/^[A-Z]/);
      expect(help).toMatch(/^[A-Z].*\.$/);
      expect(FIELD_TYPES).toContain(type);
      expect(FIELD_GROUPS).toContain(group);
      if (choices) expect(type).toBe('choice');
    }
  });
  it('maps only to elements that the open standards have', () => {
    expect(ELEMENTS.size).toBeGreaterThanOrEqual(15);
    for (const { standard } of fields) {
      const { dublinCore, ebuCore } = standard ?? {};
      if (dublinCore)
        expect([dublinCore, ELEMENTS.has(dublinCore) || TERMS.has(dublinCore)]).toEqual([dublinCore, true]);
      if (ebuCore) expect([ebuCore, EBUCORE.has(ebuCore)]).toEqual([ebuCore, true]);
      if (standard?.ixml) expect(IXML).toContain(standard.ixml);
      // The prefixes of ISO 16684-1 and of the metadata working groups; which properties they have is from memory.
      if (standard?.xmp)
        expect(standard.xmp).toMatch(/^(dc|xmp|xmpDM|exif|aux|tiff|photoshop|Iptc4xmpCore|Iptc4xmpExt):[A-Za-z]+$/);
    }
  });
  it('everything that can be set is a field that may be edited', () => {
    for (const { id } of BUILT_IN.settable) expect(BUILT_IN.named(id)?.editable).toBe(true);
  });
});

describe('folding', () => {
  it.each([
    ['Écluse', 'ecluse'],
    ['ＥＣＬＵＳＥ', 'ecluse'],
    ['ﬁlm', 'film'],
    ['İstanbul', 'istanbul'],
    ['naïve café', 'naive cafe'],
    // Unicode Standard Annex #15: these two are canonically equivalent, and so are one word.
    ['\u212B', fold('A\u030A')],
    ['가', fold('\u1100\u1161')],
    // Half-width forms are the letters they stand for; a voiced kana is another letter than one that is not.
    ['ｶﾞ', 'ガ'],
    ['が', 'が'],
  ])('%s becomes %s', (text, folded) => expect(fold(text)).toBe(folded));
  it('folding twice changes nothing more', () =>
    fc.assert(fc.property(fc.string({ unit: 'grapheme' }), (text) => fold(fold(text)) === fold(text))));
  it('words are runs of letters and digits, in order', () => {
    expect(words('Lock_A-12, "low water"; 3 m')).toEqual(['lock', 'a', '12', 'low', 'water', '3', 'm']);
    expect(words('…—!')).toEqual([]);
  });
  it('joining words with spaces and reading them again gives the same words', () =>
    fc.assert(
      fc.property(
        fc.string({ unit: 'grapheme' }),
        (text) => words(words(text).join(' ')).join() === words(text).join(),
      ),
    ));
});

const plain = fc.oneof(fc.string(), fc.double(), fc.boolean(), fc.constant(null), fc.array(fc.string()));

describe('what may be written', () => {
  const edit = { assetIds: [1], seenRevision: 0, set: {}, addTags: [], removeTags: [] };
  const wrong = (change: object) => {
    try {
      assetEditSchema.validateSync({ ...edit, ...change }, { strict: true, context: { fields: BUILT_IN } });
      return null;
    } catch (error) {
      return (error as Error).message;
    }
  };

  it('a title of one line, texts of many, a verdict of three, and nothing to clear them', () => {
    for (const set of [
      { title: 'x'.repeat(TITLE_LIMIT) },
      { title: null, description: '', notes: 'one\ntwo' },
      { verdict: 'circled' },
      { verdict: null, framing: '', rating: null, people: null },
      { framing: 'close-up', rating: 5, people: ['Ada Lock', 'N. Weir'], light: 'dusk', scene: '12A' },
    ])
      expect(wrong({ set })).toBeNull();
  });
  it.each([
    [{ set: { title: 'x'.repeat(TITLE_LIMIT + 1) } }, 'Title has at most 200 characters.'],
    [{ set: { title: 'two\nlines' } }, 'Title is one line.'],
    [{ set: { verdict: 'good' } }, 'Verdict is one of: circled, hold, ng.'],
    [{ set: { framing: 'huge' } }, expect.stringContaining('Shot size is one of: extreme wide, wide') as string],
    [{ set: { rating: 0 } }, 'Rating is a whole number from 1 to 5.'],
    [{ set: { rating: 2.5 } }, 'Rating is a whole number from 1 to 5.'],
    [{ set: { rating: 'many' } }, 'Rating is a whole number from 1 to 5.'],
    [{ set: { people: ['Ada Lock', ''] } }, 'A name needs at least one character.'],
    [{ set: { people: ['Lock, Ada'] } }, 'A name is one line without commas.'],
    [{ set: { people: Array.from({ length: 101 }, (_one, n) => `P${n}`) } }, 'People has at most 100 names.'],
    [{ set: { codec: 'h264' } }, 'There is no such field to change.'],
    [{ assetIds: [] }, 'Select at least one asset.'],
    [{ addTags: ['a'.repeat(TAG_LIMIT + 1)] }, 'A tag has at most 60 characters.'],
    [{ addTags: ['a, b'] }, 'A tag is one line without commas or quotes.'],
    [{ removeTags: ['say "cheese"'] }, 'A tag is one line without commas or quotes.'],
  ])('%j is refused: %s', (change, words) => expect(wrong(change)).toEqual(words));

  it('tags lose the spaces around them, and one of spaces only is none', () => {
    expect(tagSchema.validateSync('  golden hour ')).toBe('golden hour');
    expect(() => tagSchema.validateSync('   ')).toThrow();
    expect(() => tagSchema.validateSync('')).toThrow('A tag needs at least one character.');
  });
  it('any value of any plain type is either taken or refused in words', () =>
    fc.assert(
      fc.property(plain, (value) => {
        try {
          BUILT_IN.changes.validateSync({ title: value, notes: value, people: value, rating: value, light: value });
        } catch (error) {
          expect((error as Error).name).toBe('ValidationError');
          expect((error as Error).message).not.toBe('');
        }
      }),
    ));
});

describe('what a person types into a field', () => {
  it.each([
    ['text', ' 12A ', '12A'],
    ['longText', 'one\ntwo', 'one\ntwo'],
    ['names', 'Ada Lock,  N. Weir ,', ['Ada Lock', 'N. Weir']],
    ['number', ' 4', 4],
    ['number', 'four', 'four'],
    ['number', '1e999', '1e999'],
    ['choice', 'dusk', 'dusk'],
    ['names', ' , ', []],
    ['text', '   ', null],
  ] as const)('%s: “%s”', (type, text, value) => expect(typedValue({ type }, text)).toEqual(value));

  it('is what was said, read and typed again, for every field and whatever was said', () => {
    const word = fc
      .string({ unit: 'grapheme', minLength: 1, maxLength: 20 })
      .map((text) => text.replace(/[\s,\p{Cc}]+/gu, ' ').trim())
      .filter(Boolean);
    for (const field of BUILT_IN.settable.filter(({ retired }) => !retired)) {
      const value: fc.Arbitrary<SetValue> =
        field.type === 'number'
          ? fc.integer({ min: 1, max: 5 })
          : field.type === 'names'
            ? fc.array(word, { minLength: 1, maxLength: 5 })
            : field.choices
              ? fc.constantFrom(...field.choices)
              : field.type === 'position'
                ? fc.constantFrom('50.4120, -3.5180', '-33.123456, 151.0000', '0.0000, 0.0000')
                : word;
      fc.assert(
        fc.property(value, (said) => {
          const again = typedValue(field, valueText(said));
          expect(again).toEqual(said);
          expect(BUILT_IN.changes.validateSync({ [field.id]: again }, { strict: true })).toEqual({
            [field.id]: said,
          });
        }),
        { numRuns: 50 },
      );
    }
  });

  it('nothing is nothing, in whichever form', () => {
    for (const nothing of [null, undefined, '', []]) expect(sameValue(nothing, null)).toBe(true);
    expect(sameValue(['a'], ['a'])).toBe(true);
    expect(sameValue(['a', 'b'], ['b', 'a'])).toBe(false);
    expect(sameValue(0, null)).toBe(false);
    expect(keptValue([])).toBeNull();
  });
});
