import { ChangeDetectionStrategy, Component, inject, output, signal } from '@angular/core';
import { Router, RouterLink } from '@angular/router';
import { Icon } from '../shared/icon';
import { formatCount } from '../shared/format';
import { Tags } from '../shared/tags';
import { allowDrop, dragTag, droppedAssets } from './drag';

/** All tags by their sets, beside a list: drag one onto clips, or clips onto one; a click searches for it. */
@Component({
  selector: 'nl-tag-board',
  imports: [Icon, RouterLink],
  template: `
    @for (group of groups(); track group.name) {
      <h2 class="cut" dir="auto" [title]="group.set?.description ?? ''">{{ group.name }}</h2>
      @for (tag of group.tags; track tag.id) {
        <button
          type="button"
          draggable="true"
          [class.over]="over() === tag.name"
          [attr.data-tag]="tag.name"
          [title]="tag.description || 'Drag it onto clips, or clips onto it'"
          (dragstart)="start($event, tag.name)"
          (dragover)="hover($event, tag.name)"
          (dragleave)="over.set(null)"
          (drop)="drop($event, tag.name)"
          (click)="find(tag.name)"
        >
          <span class="slip" [attr.data-pattern]="group.pattern"
            ><span class="cut" dir="auto">{{ tag.name }}</span></span
          >
          <span class="uses">{{ count(tag.uses) }}</span>
        </button>
      }
    } @empty {
      <p class="muted small">No tags yet.</p>
    }
    <a routerLink="/words" class="small"><nl-icon name="settings" /> Sets and tags</a>
  `,
  styleUrl: './tag-board.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TagBoard {
  private readonly router = inject(Router);
  private readonly tags = inject(Tags);
  readonly dropped = output<{ name: string; ids: readonly number[] }>();
  protected readonly groups = this.tags.groups;
  protected readonly over = signal<string | null>(null);
  protected readonly count = formatCount;

  constructor() {
    this.tags.refresh();
  }

  protected start(event: DragEvent, name: string): void {
    dragTag(event, name);
  }

  protected hover(event: DragEvent, name: string): void {
    if (allowDrop(event, 'assets')) this.over.set(name);
  }

  protected drop(event: DragEvent, name: string): void {
    event.preventDefault();
    this.over.set(null);
    const ids = droppedAssets(event);
    if (ids.length > 0) this.dropped.emit({ name, ids });
  }

  protected find(name: string): void {
    void this.router.navigate(['/library'], { queryParams: { q: `tag:"${name}"` } });
  }
}
