import fc from 'fast-check';
import {
  FIELD_TYPES,
  operate,
  operationSchema,
  operationsOn,
  OPERATIONS,
  type Operation,
  type SetValue,
} from '@larder/core/fields';

const text = { type: 'text' } as const;
const names = { type: 'names' } as const;
const onText = (operation: Operation, ...values: SetValue[]) =>
  values.map((value, index) => operate(operation, text, value, index));

describe('what is done to many at once', () => {
  it('text is put before and after, also where there was none', () => {
    expect(onText({ op: 'prefix', text: 'Day 2: ' }, 'Lock', null)).toEqual(['Day 2: Lock', 'Day 2: ']);
    expect(onText({ op: 'suffix', text: ' (wide)' }, 'Lock')).toEqual(['Lock (wide)']);
  });
  it.each<[string, Omit<Extract<Operation, { op: 'replace' }>, 'op'>, SetValue, SetValue]>([
    ['every place', { find: 'lock', by: 'weir', exact: false }, 'Lock and LOCK', 'weir and weir'],
    ['only that spelling', { find: 'lock', by: 'weir', exact: true }, 'Lock lock', 'Lock weir'],
    ['signs as they are', { find: '(1.)', by: '$1', exact: false }, 'A (1.) B', 'A $1 B'],
    ['nothing where it is not', { find: 'x', by: 'y', exact: false }, 'Lock', 'Lock'],
    ['all of it', { find: 'Lock', by: '', exact: false }, 'Lock', null],
    ['letters beyond Latin', { find: '朝', by: '夜', exact: false }, '朝の光', '夜の光'],
  ])('found and replaced: %s', (_what, how, before, after) =>
    expect(onText({ op: 'replace', ...how }, before)).toEqual([after]),
  );
  it('names are replaced one by one, and two that become one are one', () =>
    expect(
      operate({ op: 'replace', find: 'N. ', by: 'Nan ', exact: false }, names, ['N. Weir', 'Nan Weir', 'Ada'], 0),
    ).toEqual(['Nan Weir', 'Ada']));
  it('numbers go up by the step, in their order, with as many digits as asked for', () => {
    const number: Operation = { op: 'number', pattern: 'Take ##', from: 9, step: 1 };
    expect(onText(number, 'x', null, 'y')).toEqual(['Take 09', 'Take 10', 'Take 11']);
    expect([0, 1, 2].map((index) => operate({ ...number, step: -5 }, { type: 'number' }, null, index))).toEqual([
      9, 4, -1,
    ]);
    expect(onText({ ...number, from: 0, step: -1 }, '', '')).toEqual(['Take 00', 'Take -01']);
  });
  it('lists take what they do not have, and lose what is there in any spelling', () => {
    expect(operate({ op: 'add', names: ['ada lock', 'Nan', 'NAN'] }, names, ['Ada Lock'], 0)).toEqual([
      'Ada Lock',
      'NAN',
    ]);
    expect(operate({ op: 'add', names: ['ada lock'] }, names, ['Ada Lock'], 0)).toEqual(['Ada Lock']);
    expect(operate({ op: 'add', names: ['Ada'] }, names, null, 0)).toEqual(['Ada']);
    expect(operate({ op: 'remove', names: ['ADA LOCK'] }, names, ['Ada Lock', 'Nan'], 0)).toEqual(['Nan']);
    expect(operate({ op: 'remove', names: ['Nan'] }, names, ['Nan'], 0)).toBeNull();
  });

  it('is read with what was left out filled in, or refused in words', () => {
    expect(operationSchema.validateSync({ op: 'number', pattern: '#' })).toEqual({
      op: 'number',
      pattern: '#',
      from: 1,
      step: 1,
    });
    for (const [value, words] of [
      [{ op: 'number', pattern: 'Take' }, 'The pattern has one run of #'],
      [{ op: 'number', pattern: '# of #' }, 'The pattern has one run of #'],
      [{ op: 'replace' }, 'What is to be found?'],
      [{ op: 'add', names: [] }, 'Name at least one.'],
      [{ op: 'constructor' }, 'That is nothing that can be done to a field.'],
      [{}, 'op is a required field'],
    ] as const)
      expect(() => operationSchema.validateSync(value)).toThrow(words);
  });
  it('every type of field says what can be done to it', () => {
    for (const type of FIELD_TYPES) for (const op of operationsOn({ type })) expect(OPERATIONS).toContain(op);
    expect(operationsOn({ type: 'dateMs' })).toEqual([]);
  });
  it('what is found nowhere changes nothing, and what is replaced is not there any more', () =>
    fc.assert(
      fc.property(
        fc.string({ unit: 'grapheme', minLength: 1, maxLength: 30 }),
        fc.string({ unit: 'grapheme', minLength: 1, maxLength: 3 }),
        (value, find) => {
          const [after] = onText({ op: 'replace', find, by: '', exact: true }, value);
          if (value.includes(find)) expect(after === null || after !== value).toBe(true);
          else expect(after).toBe(value);
        },
      ),
    ));
});
