import type { FieldValues } from '@larder/core/fields';
import type { SearchDocument } from '@larder/core/search';

/** Numbers between 0 and 1 that are the same in every run (mulberry32). */
export function random(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296;
  };
}

/** Picks numbers below `many` so that the n-th is n times as rare as the first (Zipf's law). */
function zipf(many: number): (at: number) => number {
  const sums = new Float64Array(many);
  let sum = 0;
  for (let rank = 0; rank < many; rank += 1) sums[rank] = sum += 1 / (rank + 1);
  return (at) => {
    const wanted = at * sum;
    let [low, high] = [0, many - 1];
    while (low < high) {
      const middle = (low + high) >>> 1;
      if ((sums[middle] as number) < wanted) low = middle + 1;
      else high = middle;
    }
    return low;
  };
}

const CONSONANTS = 'bdfgklmnprstvz';
const VOWELS = 'aeiou';
/** The n-th word of a made-up language, each another; the first ones are short. */
export function word(n: number): string {
  let [text, left] = ['', n];
  do {
    const [first, second] = [left % CONSONANTS.length, Math.floor(left / CONSONANTS.length) % VOWELS.length];
    text += CONSONANTS.charAt(first) + VOWELS.charAt(second);
    left = Math.floor(left / (CONSONANTS.length * VOWELS.length)) - 1;
  } while (left >= 0);
  return text;
}

export const VOCABULARY = 50_000;
export const TAGS = 2000;
const wordAt = zipf(VOCABULARY);
const tagAt = zipf(TAGS);
const DAY_MS = 86_400_000;
const FIRST_DAY_MS = Date.UTC(2019, 0, 1);
const DAYS = 2500;
const KINDS = ['video', 'video', 'video', 'audio', 'still', 'sequence'] as const;
const VERDICTS = ['circled', 'hold', 'ng'] as const;

const pick = <T>(list: readonly T[], next: () => number): T => list[Math.floor(next() * list.length)] as T;
export const someWord = (next: () => number): string => word(wordAt(next()));

const sentence = (words: number, next: () => number): string =>
  Array.from({ length: words }, () => someWord(next)).join(' ');

/** One asset as a library of documentary footage has them: 24 words in three fields, up to eight tags, a name and a path. */
export function document(id: number): SearchDocument {
  const next = random(id * 2_654_435_761);
  const card = Math.floor(id / 60);
  const reel = `${'ABC'.charAt(card % 3)}${String(card % 1000).padStart(3, '0')}`;
  const name = `${reel}_C${String(id % 60).padStart(3, '0')}_${word(id % VOCABULARY)}${id}.mov`;
  const kind = pick(KINDS, next);
  // A card is shot on one day, any of seven years; neighbours in the catalogue come from anywhere.
  const day = FIRST_DAY_MS + Math.floor(random(card)() * DAYS) * DAY_MS;
  const values: FieldValues = {
    name,
    path: `cards/${2019 + (card % 8)}/${reel}_${card}/CLIP/${name}`,
    title: sentence(4, next),
    description: sentence(14, next),
    kind,
    storage: `shelf ${card % 12}`,
    state: next() < 0.9 ? 'online' : 'offline',
    shot: day + Math.floor(next() * 36_000) * 1000,
    added: day + DAY_MS * 2 + Math.floor(next() * 7200) * 1000,
    size: Math.floor(next() * 5e10),
    scene: `${card % 90}${'AB'.charAt(id % 2)}`,
    take: String(1 + (id % 9)),
    reel,
  };
  const tags = new Set(Array.from({ length: Math.floor(next() * 9) }, () => word(tagAt(next()))));
  if (next() < 0.7) values.notes = sentence(6, next);
  if (tags.size > 0) values.tag = [...tags];
  if (kind !== 'still') values.duration = Math.floor(next() * 600_000);
  if (kind !== 'audio')
    Object.assign(values, {
      width: 3840,
      height: 2160,
      rate: pick(['25', '29.97df', '50'], next),
      codec: pick(['h264', 'dnxhd', 'prores'], next),
    });
  if (next() < 0.5) values.verdict = pick(VERDICTS, next);
  if (next() < 0.3) values.rating = 1 + Math.floor(next() * 5);
  if (next() < 0.4)
    values.people = Array.from(
      { length: 1 + Math.floor(next() * 2) },
      (_unused, at) => `${word(40 + at)} ${word(Math.floor(next() * 150) * 2 + at)}`,
    );
  if (next() < 0.5) values.place = `${word(Math.floor(next() * 200))} lock`;
  return { id, values };
}

/** A search as a person writes it, and what its answer is ordered by. */
export interface Asked {
  readonly text: string;
  readonly form: string;
}

/** Searches of all forms over what such documents say. */
export function queries(count: number, documents: number, seed: number): Asked[] {
  const next = random(seed);
  const some = (): SearchDocument => document(1 + Math.floor(next() * documents));
  const wordsOf = ({ values }: SearchDocument): string[] => String(values.description).split(' ');
  const phrase = (): string => {
    const words = wordsOf(some());
    const at = Math.floor(next() * (words.length - 1));
    return words.slice(at, at + 2).join(' ');
  };
  const tag = (): string => word(tagAt(next()));
  const inside = (field: 'name' | 'path'): string => {
    const text = String(some().values[field]);
    const at = text.search(/[a-z]+\d+\.mov/);
    return text.slice(at + Math.floor(next() * 3), at + 5 + Math.floor(next() * 4)).replace(/\W/g, '');
  };
  const month = (): string => new Date(some().values.shot as number).toISOString().slice(0, 7);
  // Of words half as they stand in texts, where few words make up most, and half any that there are.
  const some1 = (): string => (next() < 0.5 ? someWord(next) : word(Math.floor(next() * VOCABULARY)));
  const forms: Readonly<Record<string, () => string>> = {
    everything: () => '',
    word: some1,
    words: () => `${some1()} ${some1()}`,
    three: () => wordsOf(some()).slice(0, 3).join(' '),
    begun: () => `${some1().slice(0, 3 + Math.floor(next() * 2))}*`,
    phrase: () => `"${phrase()}"`,
    either: () => `${some1()} or ${some1()} or ${some1()}`,
    without: () => `${some1()} -${someWord(next)}`,
    bracketed: () => `(${some1()} or ${some1()}) kind:video -tag:${tag()}`,
    field: () => `title:${some1()}`,
    tag: () => `tag:${tag()}`,
    tags: () => `tag=(${tag()} or ${tag()} or ${tag()})`,
    tagged: () => `${some1()} tag:${tag()} verdict:circled`,
    longer: () => `duration>${1 + Math.floor(next() * 9)}m`,
    between: () => `duration:30s..${40 + Math.floor(next() * 200)}s ${some1()}`,
    month: () => `shot:${month()}`,
    since: () => `shot>${month()} kind:video`,
    large: () => `size>${Math.floor(next() * 40)}GB verdict:ng`,
    presence: () => `has:people no:tag ${some1()}`,
    unlogged: () => 'no:verdict no:rating',
    kind: () => `kind:audio state:online`,
    reel: () => `reel:${String(some().values.reel)}`,
    name: () => String(some().values.name).split('_')[2]?.replace('.mov', '') ?? '',
    inName: () => `name:*${inside('name')}*`,
    inPath: () => `path:*${inside('path')}*`,
  };
  const names = Object.keys(forms).flatMap((form) => Array.from({ length: TYPED.includes(form) ? 3 : 1 }, () => form));
  return Array.from({ length: count }, (_unused, at) => {
    const form = names[at % names.length] as string;
    return { form, text: (forms[form] as () => string)() };
  });
}

/** What is typed most; common practice, no source. */
const TYPED = ['word', 'words', 'three', 'begun', 'phrase', 'tag', 'tagged', 'name', 'inName', 'field'];
