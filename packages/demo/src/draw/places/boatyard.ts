import { hills, sky, waterBand, type PlaceDrawing } from './scenery';

export const boatyard: PlaceDrawing = {
  focus: [760, 480],
  stand: [990, 700],
  height: 290,
  water: [820, 900],
  back: (pen, palette) => {
    sky(pen, palette);
    hills(pen, palette);
    for (const [x, top] of [
      [210, 150],
      [300, 220],
      [1420, 170],
    ] as const) {
      pen.line([x, 600], [x + 4, top], { strokeWidth: 6 });
      pen.line([x, top + 90], [x - 70, 560]);
      pen.line([x, top + 90], [x + 80, 560]);
    }
  },
  mid: (pen, palette) => {
    pen.shape(
      [
        [-300, 600],
        [1900, 590],
        [1900, 830],
        [-300, 830],
      ],
      palette.stone,
    );
    pen.shape(
      [
        [420, 330],
        [780, 170],
        [1140, 330],
        [1140, 640],
        [420, 640],
      ],
      palette.wood,
    );
    pen.hatch(
      [
        [420, 330],
        [780, 170],
        [1140, 330],
        [1140, 640],
        [420, 640],
      ],
      palette.dark,
      22,
      90,
    );
    pen.shape(
      [
        [392, 338],
        [780, 160],
        [1168, 338],
        [1168, 306],
        [780, 124],
        [392, 306],
      ],
      palette.dark,
    );
    pen.box(560, 380, 440, 262, palette.ink);
    pen.shape(
      [
        [470, 376],
        [560, 380],
        [560, 642],
        [440, 668],
      ],
      palette.wood,
    );
    pen.shape(
      [
        [1000, 380],
        [1096, 376],
        [1124, 668],
        [1000, 642],
      ],
      palette.wood,
    );
    // The hull on its trestles.
    pen.shape(
      [
        [590, 520],
        [960, 500],
        [930, 600],
        [640, 606],
      ],
      '#c9b48c',
    );
    pen.curve(
      [
        [600, 548],
        [770, 556],
        [948, 530],
      ],
      { strokeWidth: 3 },
    );
    for (const x of [660, 780, 890])
      pen.shape(
        [
          [x - 26, 640],
          [x, 596],
          [x + 26, 640],
        ],
        palette.stone,
      );
    pen.shape(
      [
        [560, 640],
        [1000, 640],
        [1180, 900],
        [400, 900],
      ],
      palette.stone,
    );
    for (const y of [680, 730, 790]) pen.line([520 - (y - 640) * 0.5, y], [1040 + (y - 640) * 0.6, y + 4]);
  },
  front: (pen, palette) => {
    waterBand(pen, palette, 800, 1000);
    pen.shape(
      [
        [80, 700],
        [330, 690],
        [300, 780],
        [120, 786],
      ],
      palette.dark,
    );
    pen.line([110, 730], [316, 722], { stroke: palette.glint });
    pen.blob(1400, 760, 120, 60, palette.wood);
    pen.blob(1400, 745, 116, 40, palette.dark);
  },
};
