import { hills, house, sky, tree, type PlaceDrawing } from './scenery';

export const lock: PlaceDrawing = {
  focus: [860, 430],
  stand: [1120, 690],
  height: 260,
  water: [600, 900],
  back: (pen, palette) => {
    sky(pen, palette);
    hills(pen, palette);
    for (const [x, size] of [
      [120, 200],
      [330, 160],
      [1350, 230],
      [1540, 190],
      [1010, 120],
    ] as const)
      tree(pen, palette, x, 560, size);
    house(pen, palette, 1120, 560, 190, 150);
  },
  mid: (pen, palette) => {
    pen.shape(
      [
        [-300, 560],
        [620, 545],
        [520, 900],
        [-300, 900],
      ],
      palette.green,
    );
    pen.shape(
      [
        [980, 545],
        [1900, 560],
        [1900, 900],
        [1120, 900],
      ],
      palette.green,
    );
    pen.shape(
      [
        [620, 545],
        [980, 545],
        [1120, 900],
        [520, 900],
      ],
      palette.water,
    );
    pen.shape(
      [
        [560, 545],
        [625, 545],
        [535, 900],
        [430, 900],
      ],
      palette.stone,
    );
    pen.shape(
      [
        [975, 545],
        [1040, 545],
        [1200, 900],
        [1090, 900],
      ],
      palette.stone,
    );
    pen.hatch(
      [
        [560, 545],
        [625, 545],
        [535, 900],
        [430, 900],
      ],
      palette.dark,
      20,
      8,
    );
    pen.hatch(
      [
        [975, 545],
        [1040, 545],
        [1200, 900],
        [1090, 900],
      ],
      palette.dark,
      20,
      8,
    );
    // The two leaves of the gate meet in a blunt arrow against the water.
    pen.shape(
      [
        [622, 380],
        [802, 405],
        [802, 640],
        [622, 600],
      ],
      palette.wood,
    );
    pen.shape(
      [
        [978, 380],
        [802, 405],
        [802, 640],
        [978, 600],
      ],
      palette.wood,
    );
    for (const y of [430, 490, 550]) {
      pen.line([626, y], [800, y + 18]);
      pen.line([976, y], [804, y + 18]);
    }
    pen.shape(
      [
        [330, 352],
        [700, 368],
        [700, 400],
        [330, 392],
      ],
      palette.dark,
    );
    pen.shape(
      [
        [1270, 352],
        [900, 368],
        [900, 400],
        [1270, 392],
      ],
      palette.dark,
    );
    pen.box(318, 346, 40, 54, '#e9e4d6');
    pen.box(1242, 346, 40, 54, '#e9e4d6');
  },
  front: (pen, palette) => {
    for (const x of [60, 150, 1480, 1570])
      pen.curve(
        [
          [x, 900],
          [x + 14, 840],
          [x - 6, 770],
        ],
        { stroke: palette.dark, strokeWidth: 5 },
      );
    pen.box(1330, 700, 26, 150, palette.dark);
    pen.shape(
      [
        [1290, 690],
        [1396, 690],
        [1380, 720],
        [1306, 720],
      ],
      palette.stone,
    );
  },
};
