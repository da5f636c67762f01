import fc from 'fast-check';
import { isNamed, PASSED_OVER, passesOver } from '../src/relink';

describe('names with gaps', () => {
  it.each([
    ['*cache*', 'My Cache 2', true],
    ['*cache*', '.cache', true],
    ['A00?_*', 'a001_x.mov', true],
    ['A00?_*', 'a0011_x.mov', false],
    ['*.mov', 'x.y.MOV', true],
    ['*.mov', '.mov', true],
    ['*.mov', 'x.mov.bak', false],
    ['a(b)*', 'a(b)c', true],
    ['[x]', '[x]', true],
    ['[x]', 'x', false],
    ['ü*', 'Überfahrt', true],
    ['?', '🎞', true],
    ['', '', true],
    ['', 'x', false],
    ['*', '', true],
    ['***', 'anything', true],
    ['a*b*c', 'a-b-b-c', true],
    ['a*b*c', 'acb', false],
  ])('%s and %s: %s', (pattern, name, is) => expect(isNamed(name, pattern)).toBe(is));

  it('says what a regular expression of the same says', () => {
    const some = (letters: string, most: number) => fc.string({ unit: fc.constantFrom(...letters), maxLength: most });
    fc.assert(
      fc.property(some('ab', 8), some('ab?*', 6), (name, pattern) =>
        expect(isNamed(name, pattern)).toBe(
          new RegExp(`^${pattern.replace(/\*/g, '.*').replace(/\?/g, '.')}$`).test(name),
        ),
      ),
      { numRuns: 3000 },
    );
  });

  it('comes to an end with what keeps an expression busy for ever', () =>
    expect(isNamed('a'.repeat(2000), `${'*a'.repeat(60)}b`)).toBe(false));
});

describe('folders that are passed over', () => {
  const isPassed = passesOver([...PASSED_OVER, ' ', 'Old *']);
  it.each([
    ['Day 1/Render files', true],
    ['Day 1/Render files/deep', true],
    ['Media Cache', true],
    ['old takes/A001', true],
    ['Day 1/A001', false],
    ['', false],
    ['attempts', false],
  ])('%s: %s', (folder, is) => expect(isPassed(folder)).toBe(is));
});
