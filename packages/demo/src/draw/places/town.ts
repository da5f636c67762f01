import { random } from '../../random';
import { down, hills, house, sky, tree, waterBand, wide, type PlaceDrawing } from './scenery';

export const towpath: PlaceDrawing = {
  focus: [700, 520],
  stand: [420, 700],
  height: 230,
  water: [560, 720],
  back: (pen, palette) => {
    sky(pen, palette);
    hills(pen, palette);
    for (const [x, size] of [
      [60, 210],
      [250, 260],
      [520, 180],
      [900, 230],
      [1130, 200],
      [1530, 260],
    ] as const)
      tree(pen, palette, x, 560, size);
    // A bridge of one arch.
    pen.shape(
      [
        [1180, 560],
        [1190, 430],
        [1330, 380],
        [1480, 430],
        [1490, 560],
        [1430, 560],
        [1410, 490],
        [1335, 455],
        [1260, 490],
        [1240, 560],
      ],
      palette.stone,
    );
    pen.hatch(
      [
        [1190, 430],
        [1330, 380],
        [1480, 430],
        [1480, 470],
        [1330, 420],
        [1190, 470],
      ],
      palette.dark,
      12,
      0,
    );
  },
  mid: (pen, palette) => waterBand(pen, palette, 560, 730),
  front: (pen, palette) => {
    pen.shape(down(wide(716, 14, 31), 1000), palette.green);
    pen.shape(
      [
        [-300, 800],
        [1900, 770],
        [1900, 850],
        [-300, 890],
      ],
      palette.stone,
    );
    for (const x of [90, 350, 700, 1010, 1390])
      for (const dx of [-18, 0, 16])
        pen.curve(
          [
            [x, 735],
            [x + dx, 690],
            [x + dx * 2.2, 640],
          ],
          { stroke: palette.dark, strokeWidth: 4 },
        );
  },
};

export const town: PlaceDrawing = {
  focus: [760, 400],
  stand: [460, 730],
  height: 200,
  water: [660, 900],
  back: (pen, palette) => {
    sky(pen, palette);
    pen.shape(down(wide(430, 70, 9), 660), palette.far);
  },
  mid: (pen, palette) => {
    const next = random(77);
    for (let x = -260; x < 1800; x += 150) house(pen, palette, x, 640, 130 + next() * 26, 130 + next() * 150);
    pen.box(700, 200, 120, 440, palette.stone);
    pen.shape(
      [
        [684, 204],
        [760, 40],
        [836, 204],
      ],
      palette.dark,
    );
    pen.blob(760, 280, 66, 66, '#efe7d2');
    pen.line([760, 280], [760, 256], { strokeWidth: 4 });
    pen.line([760, 280], [778, 288], { strokeWidth: 4 });
    pen.box(-300, 636, 2200, 34, palette.stone);
  },
  front: (pen, palette) => {
    waterBand(pen, palette, 668, 1000);
    for (const x of [200, 620, 1180]) pen.box(x, 640, 18, 120, palette.dark);
  },
};
