/** Things in lists by what they have in common, in the order in which each came; those of which the key is null are left out. */
export function gathered<T, K>(things: Iterable<T>, keyOf: (thing: T) => K | null): Map<K, T[]> {
  const lists = new Map<K, T[]>();
  for (const thing of things) {
    const key = keyOf(thing);
    if (key === null) continue;
    const list = lists.get(key);
    if (list) list.push(thing);
    else lists.set(key, [thing]);
  }
  return lists;
}
