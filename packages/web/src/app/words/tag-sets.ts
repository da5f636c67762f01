import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import type { Observable } from 'rxjs';
import { nearDoubles } from '@larder/core/tags';
import type { Tag } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { counted } from '../shared/format';
import { Icon } from '../shared/icon';
import { NameDialog } from '../shared/name-dialog';
import { mayOffer, sessionFeature } from '../shared/session';
import { Tags, type LetteredTag, type TagGroup } from '../shared/tags';
import { Toasts } from '../shared/toasts';
import { TagDialog } from './tag-dialog';
import { TagSetDialog } from './tag-set-dialog';
import { SplitDialog } from './split-dialog';

/** Tags in their sets: made, lettered, put in order, renamed, merged and split. */
@Component({
  selector: 'nl-tag-sets',
  imports: [FormsModule, Icon],
  templateUrl: './tag-sets.html',
  styleUrls: ['./words.scss', './tag-sets.scss'],
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TagSets {
  private readonly api = inject(Api);
  private readonly toasts = inject(Toasts);
  private readonly tags = inject(Tags);
  private readonly names = inject(NameDialog);
  private readonly tagDialog = inject(TagDialog);
  private readonly setDialog = inject(TagSetDialog);
  private readonly splitDialog = inject(SplitDialog);
  private readonly person = inject(Store).selectSignal(sessionFeature.selectPerson);
  protected readonly mayKeep = computed(() => mayOffer(this.person(), 'keep'));
  protected readonly groups = this.tags.groups;
  protected readonly freeTags = computed(() => this.tags.book().freeTags);
  protected readonly doubles = computed(() => nearDoubles(this.tags.book().tags));
  /** The tag whose tools are shown. */
  protected readonly chosen = signal<number | null>(null);
  protected readonly chosenTag = computed(
    () =>
      this.groups()
        .flatMap(({ tags }) => tags)
        .find(({ id }) => id === this.chosen()) ?? null,
  );
  protected readonly counted = counted;

  constructor() {
    this.tags.refresh();
  }

  protected async addSet(): Promise<void> {
    const set = await this.setDialog.ask(null);
    if (set) this.tell(this.api.call('newTagSet', set), `The set “${set.name}” is there.`);
  }

  protected async changeSet({ set }: TagGroup): Promise<void> {
    if (!set) return;
    const next = await this.setDialog.ask(set);
    if (next) this.tell(this.api.call('changeTagSet', next, set.id), `The set “${next.name}” is changed.`);
  }

  protected removeSet({ set, name }: TagGroup): void {
    if (set)
      this.tell(this.api.call('removeTagSet', null, set.id), `The set “${name}” is gone; its tags are free ones now.`);
  }

  protected moveSet({ set }: TagGroup, by: -1 | 1): void {
    const ids = this.tags.book().sets.map(({ id }) => id);
    this.tell(this.api.call('orderTagSets', { ids: moved(ids, set?.id ?? 0, by) }), null);
  }

  protected async addTag({ set }: TagGroup): Promise<void> {
    const name = await this.names.ask({
      title: `A tag in “${set?.name ?? ''}”`,
      label: 'The tag',
      suggestion: '',
      action: 'Add it',
    });
    if (name && set)
      this.tell(this.api.call('newTag', { ...PLAIN, name, setId: set.id }), `“${name}” is in “${set.name}”.`);
  }

  protected async changeTag(tag: Tag): Promise<void> {
    const next = await this.tagDialog.ask(tag);
    if (next) this.tell(this.api.call('changeTag', next, tag.id), `The tag “${next.name}” is changed.`);
  }

  protected moveTag(group: TagGroup, { id }: LetteredTag, by: -1 | 1): void {
    const ids = group.tags.map((tag) => tag.id);
    this.tell(this.api.call('orderTags', { ids: moved(ids, id, by) }), null);
  }

  protected merge(gone: string, stays: string): void {
    const byName = (name: string) => this.tags.book().tags.find((tag) => tag.name === name);
    const [from, into] = [byName(gone), byName(stays)];
    if (!from || !into) return;
    this.tell(
      this.api.call('mergeTag', { into: into.id }, from.id),
      `“${gone}” is “${stays}” now on ${counted(from.uses, 'asset')}, and whenever it is typed.`,
    );
  }

  protected async split(tag: Tag): Promise<void> {
    const way = await this.splitDialog.ask(tag);
    if (way) this.tell(this.api.call('splitTag', way, tag.id), `“${tag.name}” is split.`);
  }

  protected setFree(allowed: boolean): void {
    this.tell(
      this.api.call('freeTags', { allowed }),
      allowed ? 'Any word may be a tag.' : 'Only tags of sets may be put on clips.',
    );
  }

  protected others(tag: Tag): readonly Tag[] {
    return this.tags.book().tags.filter(({ id }) => id !== tag.id);
  }

  private tell(done: Observable<unknown>, words: string | null): void {
    done.subscribe({
      next: () => {
        this.tags.refresh();
        if (words) this.toasts.done(words);
      },
      error: (failure: Failure) => this.toasts.failed(failure.message),
    });
  }
}

const PLAIN = { description: '', letter: '', synonyms: [] as string[] };

/** A list with one of it a place earlier or later. */
function moved(ids: readonly number[], id: number, by: -1 | 1): number[] {
  const at = ids.indexOf(id);
  const next = ids.filter((each) => each !== id);
  next.splice(at + by, 0, id);
  return next;
}
