import { computed, inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { foldTag, lettersOf, type Pattern } from '@larder/core/tags';
import type { Tag, TagBook, TagSet } from '@larder/contract';
import { serverSlice } from './server-slice';

/** Tags and their sets. Counts are as of the last asking: every tagging would change them. */
export const tagBook = serverSlice('tagBook', 'tags', { entities: ['tag', 'tag-set'] });

export interface LetteredTag extends Tag {
  /** Null where there are more tags than keys. */
  readonly key: string | null;
}

/** Tags that belong together, each under a key: a set, or the free tags. */
export interface TagGroup {
  readonly set: TagSet | null;
  readonly name: string;
  readonly key: string | null;
  readonly pattern: Pattern;
  readonly tags: readonly LetteredTag[];
}

const EMPTY: TagBook = { freeTags: true, sets: [], tags: [] };
/** As many free tags have a key. */
const FREE_WITH_KEYS = 36;

function lettered(tags: readonly Tag[]): LetteredTag[] {
  const keys = lettersOf(tags.map(({ name, letter }) => ({ name, letter: letter || null })));
  return tags.map((tag, index) => ({ ...tag, key: keys[index] ?? null }));
}

export function groupsOf({ sets, tags }: TagBook): TagGroup[] {
  const free = tags.filter(({ setId }) => setId === null).slice(0, FREE_WITH_KEYS);
  const groups = [
    ...sets.map((set) => ({ set, name: set.name, letter: set.letter, pattern: set.pattern })),
    ...(free.length > 0 ? [{ set: null, name: 'Free tags', letter: '', pattern: 'plain' as const }] : []),
  ];
  const keys = lettersOf(groups.map(({ name, letter }) => ({ name, letter: letter || null })));
  return groups.map(({ set, name, pattern }, index) => ({
    ...{ set, name, pattern, key: keys[index] ?? null },
    tags: lettered(set ? tags.filter(({ setId }) => setId === set.id) : free),
  }));
}

/** The library's tags as this window knows them. */
@Injectable({ providedIn: 'root' })
export class Tags {
  private readonly store = inject(Store);
  private readonly state = this.store.selectSignal(tagBook.select);
  readonly book = computed(() => this.state().value ?? EMPTY);
  readonly groups = computed(() => groupsOf(this.book()));
  private readonly patterns = computed(() => {
    const bySet = new Map(this.book().sets.map(({ id, pattern }) => [id, pattern]));
    return new Map(this.book().tags.map(({ name, setId }) => [foldTag(name), bySet.get(setId ?? 0) ?? 'plain']));
  });

  /** How the slip of a tag is drawn. */
  patternOf(name: string): Pattern {
    return this.patterns().get(foldTag(name)) ?? 'plain';
  }

  /** Asks the server again, for counts that are current. */
  refresh(): void {
    this.store.dispatch(tagBook.wanted());
  }
}
