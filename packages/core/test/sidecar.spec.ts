import fc from 'fast-check';
import { writePosition } from '@larder/core/position';
import { FieldRegistry, type FieldChanges, type SetValue, type ShopField } from '@larder/core/fields';
import { readSidecar, writeSidecar, XmpPacket } from '@larder/core/interchange/xmp';

const shop = (key: string, type: ShopField['type'], more: Partial<ShopField> = {}): ShopField => ({
  ...{ key, type, label: key, group: 'logged', help: '', choices: [], range: null },
  ...{ unit: '', plain: false, retired: false, standard: '' },
  ...more,
});
const registry = new FieldRegistry(
  [
    shop('line', 'text'),
    shop('story', 'longText'),
    shop('depth', 'number', { unit: 'm' }),
    shop('cleared', 'yesNo'),
    shop('due', 'dateMs'),
    shop('uses', 'choices', { choices: ['teaser', 'series', 'web'] }),
    shop('heard', 'names'),
    shop('sync', 'timecode'),
    shop('page', 'url'),
    shop('headline', 'text', { standard: 'unknown:Headline' }),
  ],
  ['Urgent', 'Later'],
);

const word = fc
  .string({ unit: 'grapheme', minLength: 1, maxLength: 20 })
  .map((text) => text.replace(/[\p{Cc}\uFFFE\uFFFF,"]/gu, '').trim())
  .filter((text) => text !== '');
/** Something that each field takes. */
function valueFor(field: (typeof registry.settable)[number]): fc.Arbitrary<SetValue> {
  if (field.type === 'choices') return fc.subarray([...(field.choices ?? [])], { minLength: 1 });
  if (field.choices) return fc.constantFrom(...field.choices);
  switch (field.type) {
    case 'names':
      return fc.uniqueArray(word, { minLength: 1, maxLength: 3 });
    case 'number':
      return fc.integer({ min: field.range?.[0] === 1 ? 1 : 0, max: 5 });
    case 'dateMs':
      return fc.integer({ min: 0, max: 30_000 }).map((days) => days * 86_400_000);
    case 'timecode':
      return fc.constantFrom('10:00:00:00', '01:02:03;04');
    case 'url':
      return fc.constantFrom('https://example.org/a?b=c&d=e', 'http://example.org/');
    case 'position':
      return fc
        .tuple(fc.integer({ min: -90e6, max: 90e6 }), fc.integer({ min: -180e6, max: 180e6 }))
        .map(([latitude, longitude]) => writePosition({ latitude: latitude / 1e6, longitude: longitude / 1e6 }));
    case 'longText':
      return fc.tuple(word, word).map(([a, b]) => `${a}\n<${b}> & "${a}"\r\n${b}`);
    default:
      return word;
  }
}
const whole: fc.Arbitrary<FieldChanges> = fc.record(
  Object.fromEntries(registry.settable.map((field) => [field.id, valueFor(field)])),
  { requiredKeys: [] },
);

describe('an XMP sidecar', () => {
  it('says everything there and back, whatever was said in whichever fields', () =>
    fc.assert(
      fc.property(
        whole,
        fc.uniqueArray(
          word.filter((text) => text.length < 20),
          { maxLength: 4 },
        ),
        (values, tags) => {
          const read = readSidecar(writeSidecar({ values, tags }, registry, null), registry);
          expect(read).toEqual({ set: values, tags: tags.length > 0 ? tags : null, issues: [] });
        },
      ),
    ));

  const FOREIGN = `<?xpacket begin="" id="W5M0MpCehiHzreSzNTczkc9d"?>
<x:xmpmeta xmlns:x="adobe:ns:meta/" x:xmptk='somebody&apos;s kit'>
 <rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">
  <rdf:Description rdf:about="" xmlns:d="http://purl.org/dc/elements/1.1/" xmlns:lab="http://example.org/lab/1/"
    xmlns:xmp="http://ns.adobe.com/xap/1.0/" xmp:Rating="2" lab:bath="C-41 &amp; push">
   <d:title><rdf:Alt><rdf:li xml:lang="de">Schleuse</rdf:li><rdf:li xml:lang="x-default">Old &#x2019;lock&#39;</rdf:li></rdf:Alt></d:title>
   <d:subject><rdf:Bag><rdf:li>dawn</rdf:li><rdf:li>a, b</rdf:li></rdf:Bag></d:subject>
   <lab:steps><rdf:Seq><rdf:li>wash</rdf:li><rdf:li rdf:parseType="Resource"><lab:name>fix</lab:name></rdf:li></rdf:Seq></lab:steps>
   <!-- kept -->
  </rdf:Description>
 </rdf:RDF>
</x:xmpmeta>`;

  it('of somebody else is understood by its namespaces, whatever their prefixes', () =>
    expect(readSidecar(FOREIGN, registry)).toEqual({
      ...{ set: { title: "Old ’lock'", rating: 2 }, tags: ['dawn'], issues: ['“a, b” cannot be a tag.'] },
    }));

  it('keeps what nobody here knows, and says the rest anew', () => {
    const text = writeSidecar({ values: { title: 'New lock', scene: '4B' }, tags: ['dusk'] }, registry, FOREIGN);
    for (const kept of [
      'lab:bath="C-41 &amp; push"',
      '<lab:name>fix</lab:name>',
      'somebody&apos;s kit',
      '<!-- kept -->',
      '<rdf:li>wash</rdf:li>',
    ])
      expect(text).toContain(kept);
    for (const gone of ['Schleuse', 'dawn', 'xmp:Rating']) expect(text).not.toContain(gone);
    expect(readSidecar(text, registry)).toEqual({
      set: { title: 'New lock', scene: '4B' },
      tags: ['dusk'],
      issues: [],
    });
    // Written once more it is the same.
    expect(writeSidecar({ values: { title: 'New lock', scene: '4B' }, tags: ['dusk'] }, registry, text)).toBe(text);
  });

  it('a value that its field does not take is told, and the others are read', () => {
    const text = writeSidecar({ values: { rating: 9, scene: '1' }, tags: [] }, registry, null);
    expect(readSidecar(text, registry)).toMatchObject({
      ...{ set: { scene: '1' }, issues: ['Rating: Rating is a whole number from 1 to 5.'] },
    });
  });

  it('what is none is none: other XML, other text, and document types with their entities', () => {
    for (const text of [
      '',
      'hello',
      '<a/>',
      '<rdf:RDF/>',
      '<x:xmpmeta></x:xmpmeta>',
      `<!DOCTYPE a [<!ENTITY b "c">]>${FOREIGN}`,
    ])
      expect(readSidecar(text, registry)).toBeNull();
    fc.assert(fc.property(fc.string(), (text) => expect(() => XmpPacket.parse(text)?.properties()).not.toThrow()));
  });
});
