import { ChangeDetectionStrategy, Component, computed, inject, input, linkedSignal, output } from '@angular/core';
import {
  readSpoken,
  reducedText,
  wayText,
  writeSpoken,
  type ReducedQuestion,
  type ReducedTerm,
  type RelatedGroup,
  type Relation,
  type SaidWord,
  type SpokenItem,
  type TermWhy,
} from '@larder/core/dialogue';
import { MOST_ALTERNATIVES, MOST_LOOKED_FOR } from '@larder/core/query';
import { LONGEST_SAID } from '@larder/contract';
import { Api } from '../shared/api';
import { askedAnew } from '../shared/asked-anew';
import { Icon } from '../shared/icon';
import type { SpeechAsked } from './speech-asked';
import { WordChip } from './word-chip';

const RELATION_LABELS: Readonly<Record<Relation, string>> = {
  form: 'other forms of it',
  tag: 'one tag with it',
  short: 'short or long for it',
  same: 'means the same',
  narrower: 'kinds of it',
  wider: 'what it is a kind of',
  part: 'parts and wholes',
  akin: 'close to it',
};
const WHY_LABELS: Readonly<Record<TermWhy, string>> = {
  quoted: 'between quotes, so it stays together',
  known: 'goes together, and is said so',
  said: 'said one after the other',
  word: '',
};

/** What is said in one meaning of a word. */
interface ShownMeaning {
  readonly meaning: string;
  readonly groups: readonly { readonly label: string; readonly words: readonly SaidWord[] }[];
}

interface ShownTerm {
  readonly text: string;
  readonly item: SpokenItem;
  readonly ways: ReadonlySet<string>;
  readonly meanings: readonly ShownMeaning[];
  readonly refused: string;
}

/** What else may be meant by what is looked for; of a question, what it is about. Nothing of it is looked for before it is chosen. */
@Component({
  selector: 'nl-related-words',
  imports: [Icon, WordChip],
  templateUrl: './related-words.html',
  styleUrl: './related-words.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class RelatedWords {
  readonly asking = input.required<SpeechAsked>();
  /** Of the address. */
  readonly changed = output<Readonly<Record<string, string | null>>>();
  private readonly api = inject(Api);

  private readonly said = computed(() => this.asking().said);
  /** Of a question, words that are wanted though they say nothing; and ways to say something that are not. Another question begins anew. */
  private readonly kept = linkedSignal({ source: this.said, computation: (): ReadonlySet<string> => new Set() });
  private readonly unwanted = linkedSignal({ source: this.said, computation: (): ReadonlySet<string> => new Set() });

  private readonly asked = askedAnew(
    computed(() => ({
      // Not anew with each change of the library: to count all of this takes longer than to look for one of it.
      ...{ said: this.said(), query: this.asking().query },
      kept: [...this.kept()],
    })),
    (question) => this.api.call('related', question),
  );
  protected readonly failure = this.asked.failure;
  protected readonly again = this.asked.again;
  protected readonly answer = this.asked.value;

  private readonly items = computed(() => readSpoken(this.said()));
  private readonly looked = computed(() => this.items().reduce((sum, { ways }) => sum + ways.length, 0));
  protected readonly terms = computed((): readonly ShownTerm[] =>
    (this.answer()?.terms ?? []).flatMap(({ groups, text }) => {
      const item = this.items().find(({ ways: [way], without }) => way && !without && wayText(way) === text);
      if (!item) return [];
      const ways = new Set(item.ways.map(wayText));
      return [{ text, item, ways, meanings: byMeaning(groups), refused: this.refusedOf(item) }];
    }),
  );

  private refusedOf({ ways }: SpokenItem): string {
    if (ways.length >= MOST_ALTERNATIVES) return `At most ${MOST_ALTERNATIVES} ways to say one thing are looked for.`;
    if (this.looked() >= MOST_LOOKED_FOR) return `At most ${MOST_LOOKED_FOR} words and phrases are looked for at once.`;
    return this.said().length > LONGEST_SAID - 100 ? 'What is looked for is as long as it may be.' : '';
  }

  protected toggle({ item, ways }: ShownTerm, word: string): void {
    const changed = {
      ...item,
      ways: ways.has(word)
        ? item.ways.filter((way) => wayText(way) !== word)
        : [...item.ways, { words: word.split(' '), begun: false }],
    };
    this.changed.emit({ said: writeSpoken(this.items().map((each) => (each === item ? changed : each))) });
  }

  protected readonly question = computed(() => this.answer()?.question ?? null);
  /** What is looked for instead of the question. */
  protected readonly reduced = computed(() => {
    const question = this.question();
    return question ? reducedText(question, this.unwanted()) : '';
  });

  protected whyOf({ why }: ReducedTerm): string {
    return WHY_LABELS[why];
  }

  protected nobodySays({ terms }: ReducedQuestion): string[] {
    return terms.filter(({ forms, said }) => !said && forms.length === 0).map(({ text }) => text);
  }

  protected isKept(word: string): boolean {
    return this.kept().has(word);
  }
  protected keep(word: string): void {
    this.kept.update((kept) => toggled(kept, word));
  }
  protected isWanted(way: string): boolean {
    return !this.unwanted().has(way);
  }
  protected want(way: string): void {
    this.unwanted.update((unwanted) => toggled(unwanted, way));
  }

  /** Whole thoughts answer a question, those first in which most of it is said. */
  protected lookFor(): void {
    this.changed.emit({ said: this.reduced(), how: 'any', view: 'passages' });
  }
}

const toggled = (set: ReadonlySet<string>, word: string): ReadonlySet<string> =>
  new Set(set.has(word) ? [...set].filter((each) => each !== word) : [...set, word]);

function byMeaning(groups: readonly RelatedGroup<SaidWord>[]): ShownMeaning[] {
  const meanings = [...new Set(groups.map(({ meaning }) => meaning))];
  return meanings.map((meaning) => ({
    meaning,
    groups: groups
      .filter((group) => group.meaning === meaning)
      .map(({ relation, words }) => ({ label: RELATION_LABELS[relation], words })),
  }));
}
