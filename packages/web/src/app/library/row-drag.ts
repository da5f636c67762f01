import { Directive, input, output } from '@angular/core';
import type { Asset } from '@larder/contract';
import { allowDrop, dragAssets, droppedTag } from '../tags/drag';

const OVER = 'nl-over';

/** Rows of the ledger are dragged onto tags, and tags onto them. */
@Directive({
  selector: '[nlRowDrag]',
  host: {
    '(dragstart)': 'start($event)',
    '(dragover)': 'hover($event)',
    '(dragleave)': 'leave()',
    '(drop)': 'drop($event)',
  },
})
export class RowDrag {
  readonly assetAt = input.required<(index: number) => Asset | undefined>();
  readonly selected = input.required<ReadonlySet<number>>();
  readonly tagged = output<{ readonly name: string; readonly asset: Asset }>();
  private over: readonly Element[] = [];

  private assetOf({ target }: Event): Asset | undefined {
    const row = target instanceof Element && target.closest('.ag-row');
    return row ? this.assetAt()(Number(row.getAttribute('row-index'))) : undefined;
  }

  protected start(event: DragEvent): void {
    const asset = this.assetOf(event);
    if (asset) dragAssets(event, this.selected().has(asset.id) ? [...this.selected()] : [asset.id]);
  }

  protected hover(event: DragEvent): void {
    this.leave();
    const row = event.target instanceof Element && event.target.closest('.ag-row');
    if (!row || !this.assetOf(event) || !allowDrop(event, 'tag')) return;
    // A row is in two halves where columns are kept at the left.
    const index = row.getAttribute('row-index') ?? '';
    this.over = [...(row.closest('.ag-root')?.querySelectorAll(`.ag-row[row-index="${index}"]`) ?? [])];
    for (const half of this.over) half.classList.add(OVER);
  }

  protected leave(): void {
    for (const half of this.over) half.classList.remove(OVER);
    this.over = [];
  }

  protected drop(event: DragEvent): void {
    this.leave();
    const [name, asset] = [droppedTag(event), this.assetOf(event)];
    if (!name || !asset) return;
    event.preventDefault();
    this.tagged.emit({ name, asset });
  }
}
