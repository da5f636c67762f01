import { fold } from '../fields';

/** Keys that a set or a tag can have, in the order in which they are given out when its own letters are taken. */
export const LETTERS = 'abcdefghijklmnopqrstuvwxyz0123456789';

/** Something with a name and, if a person chose one, a letter. */
interface Lettered {
  readonly name: string;
  readonly letter: string | null;
}

/**
 * A letter for each, in their order: the chosen ones first, then for each the first letter of its words, then any letter of its
 * name, then any that is left. What there is no letter left for has null. A letter chosen twice is the first one's.
 */
export function lettersOf(all: readonly Lettered[]): (string | null)[] {
  const taken = new Set<string>();
  const take = (letter: string | undefined): string | null => {
    if (!letter || taken.has(letter)) return null;
    taken.add(letter);
    return letter;
  };
  const given = all.map(({ letter }) => (letter && LETTERS.includes(letter) ? take(letter) : null));
  const own = (name: string) => [...fold(name)].filter((letter) => LETTERS.includes(letter));
  const initials = (name: string) =>
    own(
      name
        .split(/\s+/)
        .map((word) => word[0] ?? '')
        .join(''),
    );
  // Everybody's own initials before anybody's other letters: a word is looked for under its first letter.
  for (const wish of [initials, own, () => [...LETTERS]])
    all.forEach(({ name }, index) => {
      given[index] ??= take(wish(name).find((letter) => !taken.has(letter)));
    });
  return given;
}
