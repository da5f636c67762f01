import { random } from '../../random';
import type { Palette } from '../palette';
import type { Pen, Point } from '../pen';

/** A place is three layers, drawn from the back, and where things happen in it. All in world units. */
export interface PlaceDrawing {
  readonly back: (pen: Pen, palette: Palette) => void;
  readonly mid: (pen: Pen, palette: Palette) => void;
  readonly front: (pen: Pen, palette: Palette) => void;
  /** Where a close shot looks. */
  readonly focus: Point;
  /** Where a person stands, feet on the ground, and how tall. */
  readonly stand: Point;
  readonly height: number;
  /** Water's surface from top to bottom, for glints and boats; null indoors. */
  readonly water: readonly [number, number] | null;
  /** A light that flickers. */
  readonly flicker?: Point;
  /** A bell that swings, by its hanging point. */
  readonly bell?: Point;
}

/** A layer in which a place has nothing. */
export const NOTHING = (): void => undefined;

export const wide = (y: number, wobble: number, seed: number): Point[] => {
  const next = random(seed);
  return Array.from({ length: 13 }, (_unused, index): Point => [-300 + index * 185, y + (next() - 0.5) * wobble]);
};
export const down = (line: readonly Point[], to: number): Point[] => [...line, [1950, to], [-350, to]];

export function sky(pen: Pen, palette: Palette): void {
  pen.wash(-200, 560, palette.skyTop, palette.skyLow);
  pen.glow(1180, 330, 330, palette.lamp, 0.45);
  for (const [x, y, size] of [
    [300, 130, 190],
    [470, 160, 240],
    [1050, 110, 220],
    [1400, 190, 180],
  ] as const)
    pen.blob(x, y, size, size * 0.28, palette.skyLow, { stroke: 'none', roughness: 2.5 });
}

export function tree(pen: Pen, palette: Palette, x: number, foot: number, size: number): void {
  pen.box(x - size * 0.05, foot - size * 0.5, size * 0.1, size * 0.5, palette.wood);
  for (const [dx, dy, part] of [
    [-0.22, -0.62, 0.5],
    [0.2, -0.6, 0.52],
    [0, -0.85, 0.6],
  ] as const)
    pen.blob(x + dx * size, foot + dy * size, size * part, size * part * 0.9, palette.green);
  pen.hatch(
    [
      [x - size * 0.4, foot - size * 0.5],
      [x, foot - size * 1.1],
      [x + size * 0.3, foot - size * 0.45],
    ],
    palette.dark,
    size * 0.07,
  );
}

export function house(pen: Pen, palette: Palette, x: number, foot: number, width: number, height: number): void {
  pen.box(x, foot - height, width, height, palette.stone);
  pen.shape(
    [
      [x - 12, foot - height],
      [x + width / 2, foot - height - width * 0.45],
      [x + width + 12, foot - height],
    ],
    palette.wood,
  );
  pen.hatch(
    [
      [x, foot - height],
      [x + width / 2, foot - height - width * 0.42],
      [x + width, foot - height],
    ],
    palette.dark,
    10,
  );
  for (let row = 0; row < Math.floor(height / 90); row += 1)
    for (const part of [0.22, 0.62])
      pen.box(x + width * part, foot - height + 26 + row * 82, width * 0.18, 40, palette.lamp);
}

export const hills = (pen: Pen, palette: Palette): void => {
  pen.shape(down(wide(440, 90, 5), 620), palette.far);
  pen.hatch(down(wide(470, 60, 8), 600), palette.green, 16);
};

export function waterBand(pen: Pen, palette: Palette, top: number, bottom: number): void {
  pen.shape(
    [
      [-300, top],
      [1900, top],
      [1900, bottom],
      [-300, bottom],
    ],
    palette.water,
  );
  pen.hatch(
    [
      [-300, top],
      [1900, top],
      [1900, top + 40],
      [-300, top + 30],
    ],
    palette.dark,
    14,
    2,
  );
}
