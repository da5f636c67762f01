import fc from 'fast-check';
import { BUILT_IN, FieldRegistry, type FieldValues } from '@larder/core/fields';
import { MarkingRules, markingSchema, type Marking } from '@larder/core/markings';

const marking = (id: number, name: string, rule = '', colour: Marking['colour'] = 'red'): Marking => ({
  ...{ id, name, rule, colour },
});
const ALL = [
  marking(1, 'Urgent'),
  marking(2, 'Archive', 'tag:archive'),
  marking(3, 'Long sound', 'kind:audio duration>1m'),
  marking(4, 'Sound', 'kind:audio'),
  marking(5, 'Trailer', 'in:"Trailer"'),
];
const registry = new FieldRegistry(
  [],
  ALL.map(({ name }) => name),
);
const of = (values: FieldValues, markings = ALL) => new MarkingRules(markings, registry).of({ values })?.name ?? null;

describe('markings', () => {
  it.each<[string, FieldValues, string | null]>([
    ['nothing fits', { kind: 'video' }, null],
    ['a kind', { kind: 'audio' }, 'Sound'],
    ['the first rule that fits', { kind: 'audio', duration: 90_000 }, 'Long sound'],
    ['a tag before a kind, as they are ordered', { kind: 'audio', tag: ['archive'] }, 'Archive'],
    ['a bin', { kind: 'video', bin: ['Episode one/Trailer'] }, 'Trailer'],
    ['by hand before every rule', { kind: 'audio', tag: ['archive'], marking: 'Urgent' }, 'Urgent'],
    ['by hand one that has a rule', { kind: 'video', marking: 'Sound' }, 'Sound'],
    ['by hand one that is gone: the rules count', { kind: 'audio', marking: 'Gone' }, 'Sound'],
  ])('%s', (_what, values, name) => expect(of(values)).toBe(name));

  it('a rule that cannot be read fits nothing, and harms no other', () =>
    expect(of({ kind: 'audio' }, [marking(1, 'Broken', 'tag:('), marking(2, 'Lost', 'permit:lock'), ...ALL])).toBe(
      'Sound',
    ));

  it('with any kinds, tags and order the first that fits is taken', () =>
    fc.assert(
      fc.property(
        fc.constantFrom('audio', 'video', 'still'),
        fc.subarray(['dawn', 'dusk', 'lock']),
        fc.shuffledSubarray(['kind:audio', 'kind:video', 'tag:dawn', 'tag:lock', 'no:tag']),
        (kind, tags, rules) => {
          const fits: Record<string, boolean> = {
            'kind:audio': kind === 'audio',
            'kind:video': kind === 'video',
            'tag:dawn': tags.includes('dawn'),
            'tag:lock': tags.includes('lock'),
            'no:tag': tags.length === 0,
          };
          const markings = rules.map((rule, index) => marking(index, rule, rule));
          const values: FieldValues = { kind, ...(tags.length > 0 ? { tag: tags } : {}) };
          expect(of(values, markings)).toBe(rules.find((rule) => fits[rule]) ?? null);
        },
      ),
    ));

  it('their names are the choices of a field, which is there only if there are any', () => {
    expect(registry.byId('marking')).toMatchObject({ choices: ALL.map(({ name }) => name) });
    expect(registry.byId('marking')?.retired).toBeUndefined();
    expect(registry.changes.isValidSync({ marking: 'Urgent' })).toBe(true);
    expect(registry.changes.isValidSync({ marking: 'Other' })).toBe(false);
    expect(BUILT_IN.byId('marking')?.retired).toBe(true);
  });

  it('have a name of one line and one of the colours', () => {
    expect(markingSchema.validateSync({ name: ' Urgent ' })).toEqual({ name: 'Urgent', colour: 'none', rule: '' });
    for (const wrong of [{ name: '' }, { name: 'a,b' }, { name: 'a\nb' }, { name: 'x', colour: 'pink' }])
      expect(markingSchema.isValidSync(wrong)).toBe(false);
  });
});
