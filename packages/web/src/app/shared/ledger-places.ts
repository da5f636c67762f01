import type { FieldRegistry } from '@larder/core/fields';

/** How one of the ledger's columns is arranged. */
export interface ColumnPlace {
  readonly colId: string;
  readonly shown: boolean;
  readonly width: number;
  /** Stays in sight at the left. */
  readonly pinned: boolean;
}

/** Shown until somebody says otherwise, with the widths that hold what they say. */
const AT_FIRST: Readonly<Record<string, number>> = {
  name: 190,
  title: 220,
  kind: 96,
  state: 90,
  verdict: 88,
  marking: 130,
  tag: 190,
  reel: 80,
  scene: 70,
  take: 62,
  start: 120,
  duration: 92,
  rate: 84,
  shot: 110,
  storage: 130,
  size: 92,
  added: 160,
};
const WIDTH = 130;

/** All columns as they are at first: the usual ones, then every other field, hidden. */
export const placesAtFirst = (fields: FieldRegistry): readonly ColumnPlace[] => [
  ...Object.entries(AT_FIRST)
    .filter(([colId]) => !fields.byId(colId)?.retired)
    .map(([colId, width]) => ({ colId, width, shown: true, pinned: colId === 'name' })),
  ...fields.all
    .filter(({ id, retired, asked }) => !(id in AT_FIRST) && !retired && !asked)
    .map(({ id }) => ({ colId: id, width: WIDTH, shown: false, pinned: false })),
];

/** All columns as they were arranged. What was kept may know columns that are gone, and not know new ones. */
export function placesOf(kept: readonly ColumnPlace[], fields: FieldRegistry): readonly ColumnPlace[] {
  const first = placesAtFirst(fields);
  const known = kept.filter(({ colId }) => first.some((place) => place.colId === colId));
  return [...known, ...first.filter(({ colId }) => !known.some((place) => place.colId === colId))];
}
