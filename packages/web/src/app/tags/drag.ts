/** What is dragged between lists and tags: a tag by its name, or assets by their ids. */
const TAG = 'application/x-larder-tag';
const ASSETS = 'application/x-larder-assets';

export function dragTag({ dataTransfer }: DragEvent, name: string): void {
  dataTransfer?.setData(TAG, name);
  dataTransfer?.setData('text/plain', name);
}

export function dragAssets({ dataTransfer }: DragEvent, ids: readonly number[]): void {
  dataTransfer?.setData(ASSETS, JSON.stringify(ids));
}

/** Lets a thing of that kind be dropped here. */
export function allowDrop(event: DragEvent, kind: 'tag' | 'assets'): boolean {
  // What is dragged can be read only when it is dropped; before that only its kind.
  const allowed = event.dataTransfer?.types.includes(kind === 'tag' ? TAG : ASSETS) ?? false;
  if (allowed) event.preventDefault();
  return allowed;
}

export const droppedTag = ({ dataTransfer }: DragEvent): string | null => dataTransfer?.getData(TAG) || null;

export function droppedAssets({ dataTransfer }: DragEvent): number[] {
  // Another page may drop anything under this name.
  try {
    const ids: unknown = JSON.parse(dataTransfer?.getData(ASSETS) ?? '[]');
    return Array.isArray(ids) ? ids.filter((id): id is number => Number.isSafeInteger(id)) : [];
  } catch {
    return [];
  }
}
