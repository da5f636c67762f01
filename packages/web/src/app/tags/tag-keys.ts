import { DOCUMENT } from '@angular/common';
import {
  ApplicationRef,
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  inject,
  signal,
} from '@angular/core';
import { Store } from '@ngrx/store';
import { libraryActions } from '../library/state/library.actions';
import { libraryFeature } from '../library/state/library.reducer';
import { markerActions } from '../markers/state';
import { Icon } from '../shared/icon';
import { Keys } from '../shared/keys';
import { Marked } from '../shared/marked';
import { mayOffer, sessionFeature } from '../shared/session';
import { Settings } from '../shared/settings';
import { Tags, type LetteredTag, type TagGroup } from '../shared/tags';
import { Toasts } from '../shared/toasts';

/** As many tags of a set are shown before it is chosen. */
const SHOWN = 10;

/** The key itself, whether or not Shift changes what it types. */
export const letterOf = ({ key, code }: Pick<KeyboardEvent, 'key' | 'code'>): string =>
  /^Digit\d$/.test(code) ? code.slice(-1) : key.toLowerCase();

/**
 * Tags by their keys: `T` shows them, a letter chooses a set, the next a tag of it. `.` does again what was done last, `/` types a
 * tag, and with Shift a tag is taken away.
 */
@Component({
  selector: 'nl-tag-keys',
  imports: [Icon],
  templateUrl: './tag-keys.html',
  styleUrl: './tag-keys.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TagKeys {
  private readonly store = inject(Store);
  private readonly app = inject(ApplicationRef);
  private readonly document = inject(DOCUMENT);
  private readonly toasts = inject(Toasts);
  private readonly settings = inject(Settings);
  private readonly tags = inject(Tags);
  private readonly marked = inject(Marked);
  private readonly ids = this.store.selectSignal(libraryFeature.selectSelected);
  private readonly assets = this.store.selectSignal(libraryFeature.selectSelectedAssets);
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);

  protected readonly open = signal(false);
  private readonly chosenKey = signal<string | null>(null);
  /** The tags put on last, all on the same clips: what `.` does again. */
  private last: { readonly names: readonly string[]; readonly on: string } | null = null;

  protected readonly groups = this.tags.groups;
  protected readonly chosen = computed<TagGroup | null>(() => {
    const [only, ...more] = this.groups();
    if (only && more.length === 0) return only;
    return this.groups().find(({ key }) => key !== null && key === this.chosenKey()) ?? null;
  });
  protected readonly columns = computed(() => {
    const chosen = this.chosen();
    return (chosen ? [chosen] : this.groups()).map((group) => ({
      ...group,
      shown: chosen ? group.tags : group.tags.slice(0, SHOWN),
      more: chosen ? 0 : Math.max(0, group.tags.length - SHOWN),
    }));
  });
  /** Tags that all of the selected have. */
  private readonly had = computed(() => {
    const [first, ...others] = this.assets();
    return new Set((first?.tags ?? []).filter((tag) => others.every(({ tags }) => tags.includes(tag))));
  });

  constructor() {
    inject(Keys).on('log.tag', () => this.begin());
    // Before everything else that hears keys: while the sheet is open, each is a letter of it.
    const press = (event: KeyboardEvent) => this.press(event);
    this.document.addEventListener('keydown', press, { capture: true });
    inject(DestroyRef).onDestroy(() => this.document.removeEventListener('keydown', press, { capture: true }));
  }

  private begin(): boolean {
    if (this.ids().length === 0 || !mayOffer(this.person(), 'log')) return false;
    this.tags.refresh();
    this.chosenKey.set(null);
    this.open.set(true);
    return true;
  }

  protected close(): void {
    this.open.set(false);
  }

  protected has(tag: LetteredTag): boolean {
    return this.had().has(tag.name);
  }

  protected choose(group: TagGroup): void {
    this.chosenKey.set(group.key);
  }

  private press(event: KeyboardEvent): void {
    if (!this.open() || ['Shift', 'Control', 'Alt', 'Meta'].includes(event.key)) return;
    // A key of the browser's closes the sheet and does what it does.
    if (event.ctrlKey || event.metaKey || event.altKey) return this.close();
    event.preventDefault();
    event.stopImmediatePropagation();
    const chosen = this.chosen();
    switch (event.key) {
      case 'Escape':
        return this.close();
      case 'Backspace':
        return this.chosenKey() === null ? this.close() : this.chosenKey.set(null);
      case '/':
        return this.type();
      case '.':
        return this.again();
    }
    const letter = letterOf(event);
    if (!chosen) {
      if (this.groups().some(({ key }) => key === letter)) this.chosenKey.set(letter);
      return;
    }
    const tag = chosen.tags.find(({ key }) => key === letter);
    if (tag) this.put(tag, event.shiftKey);
  }

  protected put({ name }: Pick<LetteredTag, 'name'>, away: boolean): void {
    const on = this.ids().join();
    if (!away) this.last = { names: this.last?.on === on ? [...this.last.names, name] : [name], on };
    this.edit([name], away);
  }

  private again(): void {
    if (!this.last) {
      this.toasts.done('No tag was put on with a key yet.');
      return this.close();
    }
    this.last = { ...this.last, on: this.ids().join() };
    this.edit(this.last.names, false);
  }

  /** What was marked of the clip that is looked at gets the tag as a stretch; else all that is selected gets it. */
  private edit(names: readonly string[], away: boolean): void {
    const stretch = this.marked.stretch();
    const [assetId, ...others] = this.ids();
    if (stretch && assetId !== undefined && others.length === 0 && !away) {
      for (const name of names)
        this.store.dispatch(
          markerActions.add({
            assetId,
            marker: { kind: 'tag', ...stretch, name, note: '', colour: 'none' },
            naming: false,
          }),
        );
      this.toasts.done(`Marked stretch tagged ${names.map((name) => `“${name}”`).join(', ')}.`);
      return this.close();
    }
    const what = `${names.length === 1 ? 'Tag' : 'Tags'} ${names.map((name) => `“${name}”`).join(', ')}`;
    this.store.dispatch(
      libraryActions.edit({
        ids: this.ids(),
        change: away ? { removeTags: names } : { addTags: names },
        label: `${what} ${away ? 'removed' : 'added'}`,
      }),
    );
    this.close();
  }

  /** To the field where a tag is typed. */
  private type(): void {
    this.close();
    this.settings.details.set(true);
    this.app.tick();
    this.document.getElementById('field-tag')?.focus();
  }
}
