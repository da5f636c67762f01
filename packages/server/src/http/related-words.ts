import type { Sequelize } from 'sequelize';
import {
  relatedBy,
  rowsOf,
  runsOf,
  saysNothing,
  type RelatedAsked,
  type RelatedGroup,
  type SpokenItem,
  type WordNet,
  type WordsKnown,
} from '@larder/core/dialogue';
import { spokenWords } from '@larder/core/fields';
import { foldTag } from '@larder/core/tags';
import { tagSynonyms, type TagNames } from '../store/tag-book';

/** What the lexical database knows of the words of a question. */
export function ofQuestion(
  net: WordNet,
  text: string,
  kept: ReadonlySet<string>,
): { readonly kept: ReadonlySet<string>; readonly known: WordsKnown } {
  const { runs } = runsOf(text, kept);
  const terms = new Set(runs.flatMap(rowsOf).filter((row) => isTerm(net, row)));
  const words = new Set(runs.flatMap((run) => run.words));
  return { kept, known: { terms, irregular: new Map([...words].map((word) => [word, net.irregular(word)])) } };
}

/** As it is written, or with its last word in its base form (`narrow boats`). */
const isTerm = (net: WordNet, row: string): boolean => net.has(row) || net.bases(row, 'noun').length > 0;

/** What goes with each thing that is looked for by its first way: by its meanings, and by the tags of the shop. */
export async function termsIn(db: Sequelize, net: WordNet, items: readonly SpokenItem[]): Promise<RelatedAsked[]> {
  const texts = items.flatMap(({ ways: [way], without }) =>
    way && !way.begun && !without && !way.words.every(saysNothing) ? [way.words.join(' ')] : [],
  );
  const tagged = texts.length > 0 ? await tagSynonyms(db) : [];
  return [...new Set(texts)].map((text) => ({
    text,
    irregular: net.irregular(text.split(' ').at(-1) ?? ''),
    groups: [...tagged.flatMap((tag) => byTag(tag, text)), ...relatedBy(net, text)],
  }));
}

/** A tag and what it is also called are said for each other. */
function byTag({ names, set }: TagNames, text: string): RelatedGroup<string>[] {
  const others = names.filter((name) => foldTag(name) !== foldTag(text));
  if (others.length === names.length) return [];
  return [{ relation: 'tag', meaning: set, words: others.map((name) => spokenWords(name).join(' ')) }];
}
