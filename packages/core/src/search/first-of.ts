/** The smallest of many in some order, without sorting them all. */
export type Compare = (a: number, b: number) => number;

/** So few that they are sorted sooner than chosen from. */
export const isFew = (count: number, most: number): boolean => count <= most * 2 || count < 512;

/** The smallest ones in order. Equal ones stand as documents do. */
export function firstOf(docs: Uint32Array, most: number, compare: Compare | null): Uint32Array {
  if (!compare) return docs.subarray(0, most);
  if (isFew(docs.length, most)) return docs.slice().sort(compare).subarray(0, most);
  return smallest(docs, most, compare).sort(compare);
}

/** The smallest so many in no order: a heap with the largest of them on top, which most others do not get past. */
function smallest(docs: Uint32Array, most: number, compare: Compare): Uint32Array {
  const heap = heapOf(docs.slice(0, most), compare);
  for (let i = most; i < docs.length; i += 1) replaceTop(heap, docs[i] as number, compare);
  return heap;
}

export function heapOf(docs: Uint32Array, compare: Compare): Uint32Array {
  for (let at = (docs.length >> 1) - 1; at >= 0; at -= 1) sink(docs, at, compare);
  return docs;
}

export function replaceTop(heap: Uint32Array, doc: number, compare: Compare): void {
  if (compare(doc, heap[0] as number) >= 0) return;
  heap[0] = doc;
  sink(heap, 0, compare);
}

function sink(heap: Uint32Array, from: number, compare: Compare): void {
  const most = heap.length;
  const value = heap[from] as number;
  let at = from;
  for (let child = 2 * at + 1; child < most; child = 2 * at + 1) {
    if (child + 1 < most && compare(heap[child + 1] as number, heap[child] as number) > 0) child += 1;
    if (compare(heap[child] as number, value) <= 0) break;
    heap[at] = heap[child] as number;
    at = child;
  }
  heap[at] = value;
}
