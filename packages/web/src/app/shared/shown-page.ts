import { effect, signal, type ResourceRef, type Signal, type WritableSignal } from '@angular/core';

/**
 * Of a list that is read page by page what was read last, which stays while what comes next is on its way. Where a page is gone, since
 * the list has become shorter, `page` is turned to the last there is. Within an injection context.
 */
export function shownPage<List extends { readonly total: number }>(
  list: ResourceRef<List | undefined>,
  page: WritableSignal<number>,
  of: { readonly rows: (list: List) => readonly unknown[]; readonly size: number },
): Signal<List | null> {
  const last = signal<List | null>(null);
  effect(() => {
    if (!list.hasValue()) return;
    const value = list.value();
    last.set(value);
    if (of.rows(value).length === 0 && value.total > 0) page.set(Math.ceil(value.total / of.size));
  });
  return last.asReadonly();
}
