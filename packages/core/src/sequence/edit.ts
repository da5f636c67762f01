import type { Media, StringOut, StringOutItem } from './string-out';

/** Every operation gives a new string-out, or the very same one when nothing changed. */
type Items = readonly StringOutItem[];

const withItems = (stringOut: StringOut, items: Items): StringOut => ({ ...stringOut, items });
const clamp = (value: number, low: number, high: number): number => Math.min(Math.max(value, low), high);

/** Puts items before the one at `index`; later ones ripple down. */
export function insertItems(stringOut: StringOut, index: number, added: Items): StringOut {
  if (added.length === 0) return stringOut;
  const at = clamp(Math.trunc(index), 0, stringOut.items.length);
  return withItems(stringOut, stringOut.items.toSpliced(at, 0, ...added));
}

export function removeItems(stringOut: StringOut, ids: ReadonlySet<string>): StringOut {
  const items = stringOut.items.filter((item) => !ids.has(item.id));
  return items.length === stringOut.items.length ? stringOut : withItems(stringOut, items);
}

/** Moves the item at `from` so that it then stands at `to`. */
export function moveItem(stringOut: StringOut, from: number, to: number): StringOut {
  const item = stringOut.items[from];
  const target = clamp(Math.trunc(to), 0, stringOut.items.length - 1);
  if (!item || target === from) return stringOut;
  return withItems(stringOut, stringOut.items.toSpliced(from, 1).toSpliced(target, 0, item));
}

/** Sets in and out of one item, kept inside its media and at least one frame long; later items ripple. */
export function trimItem(
  stringOut: StringOut,
  id: string,
  marks: { readonly in?: number; readonly out?: number },
  media: Media,
): StringOut {
  const index = stringOut.items.findIndex((item) => item.id === id);
  const item = stringOut.items[index];
  if (!item) return stringOut;
  // The side that is moved gives way to the one that stays.
  const last = Math.max(0, Math.min(marks.out ?? item.out, media.durationFrames) - 1);
  const start = marks.in === undefined ? item.in : clamp(Math.trunc(marks.in), 0, last);
  const end = marks.out === undefined ? item.out : clamp(Math.trunc(marks.out), start + 1, media.durationFrames);
  if (start === item.in && end === item.out) return stringOut;
  return withItems(stringOut, stringOut.items.with(index, { ...item, in: start, out: end }));
}
