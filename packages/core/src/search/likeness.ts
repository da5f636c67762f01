import { words, type FieldId } from '../fields';
import { mapFields, type FieldTest, type Query } from '../query';
import { rarityOf } from './relevance';
import type { Part } from './part';

/** Fields of which one thing said is shared or not, and fields whose words are. */
const WHOLE: readonly FieldId[] = ['tag', 'people', 'place', 'scene'];
const WORDED: readonly FieldId[] = ['title', 'description'];
/** What more than this part of all assets say tells nothing. */
const COMMON = 0.2;
/** The rarest so many are asked for, of the first so many that are looked at. */
const MOST = { looked: 60, asked: 10 } as const;
const SHORTEST_WORD = 3;

type Asking = Extract<Query, { kind: 'field' }>;

/** What the search needs to know of the library. */
export interface Known {
  readonly living: number;
  counts(trees: readonly Query[]): readonly number[];
  /** What an asset says in a field; nothing if it is not there. */
  said(id: number, field: FieldId): readonly string[];
}

/** The asset that a part of a search means by its number; null if it means none. */
const meantBy = ({ test }: Asking): number | null =>
  test.op === 'span' && test.from !== null && test.to === test.from + 1 ? test.from : null;

/** A search with what is like an asset put as what it shares with it; itself, if it asks for no such thing. */
export const withLikes = (tree: Query, known: Known): Query =>
  mapFields(tree, (part) => (part.field === 'like' ? likes(meantBy(part), known) : part));

/** As `withLikes`, to order by: whatever is shared counts, the more the rarer it is. */
export const likesToRank = (tree: Query, known: Known): Query =>
  mapFields(tree, (part) => {
    if (part.field !== 'like') return part;
    const id = meantBy(part);
    return { kind: 'any', of: id === null ? [] : featuresOf(id, known).map(asWords) };
  });

/** Two things at least are shared, where the asset says two things that tell anything; the asset itself is not like itself. */
function likes(id: number | null, known: Known): Query {
  const features = id === null ? [] : featuresOf(id, known);
  if (id === null || features.length === 0) return { kind: 'any', of: [] };
  const itself: Query = { kind: 'field', field: 'number', test: { op: 'span', from: id, to: id + 1 } };
  const pairs = features.flatMap((one, at) =>
    features.slice(at + 1).map((other): Query => ({ kind: 'all', of: [one, other] })),
  );
  return {
    kind: 'all',
    of: [
      { kind: 'any', of: pairs.length > 0 ? pairs : features },
      { kind: 'not', of: itself },
    ],
  };
}

/** What tells an asset from others, the rarest first: tags, people, place and scene as wholes, and words of its title and description. */
function featuresOf(id: number, known: Known): Asking[] {
  const whole = WHOLE.flatMap((field) =>
    known.said(id, field).map((text) => asking(field, { op: 'whole', text: words(text).join(' ') })),
  );
  const worded = WORDED.flatMap((field) =>
    [...new Set(known.said(id, field).flatMap((text) => words(text)))]
      .filter((word) => word.length >= SHORTEST_WORD && !/^\d+$/.test(word))
      .map((word) => asking(field, { op: 'forms', text: word })),
  );
  const features = [...whole, ...worded].slice(0, MOST.looked);
  const counts = known.counts(features);
  return features
    .map((feature, at) => ({ feature, saying: counts[at] as number }))
    .filter(({ saying }) => saying > 1 && saying <= Math.max(2, known.living * COMMON))
    .sort((a, b) => rarityOf(known.living, b.saying) - rarityOf(known.living, a.saying))
    .slice(0, MOST.asked)
    .map(({ feature }) => feature);
}

const asking = (field: FieldId, test: FieldTest): Asking => ({ kind: 'field', field, test });

/** Things as wholes are not said more or less. */
const asWords = ({ field, test }: Asking): Query =>
  test.op === 'whole' ? asking(field, { op: 'text', text: test.text, prefix: false }) : asking(field, test);

/** What a document of a part says in a field. */
export function saidIn(part: Part, doc: number, field: FieldId): readonly string[] {
  const column = part.finder.column(field);
  if (column?.kind !== 'texts') return [];
  const texts = part.finder.textsOf(field);
  if (column.numbers) {
    const number = column.numbers[doc] as number;
    return number === 0 ? [] : [texts.at(number - 1)];
  }
  return Array.from(column.items.subarray(column.starts[doc], column.starts[doc + 1]), (item) => texts.at(item));
}
