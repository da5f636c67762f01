import type { Palette } from '../palette';
import type { Pen } from '../pen';
import { NOTHING, type PlaceDrawing } from './scenery';

const room = (things: (pen: Pen, palette: Palette) => void): PlaceDrawing => ({
  focus: [800, 400],
  stand: [800, 1020],
  height: 800,
  water: null,
  back: (pen, palette) => {
    pen.wash(-200, 1000, palette.stone, palette.far);
    pen.hatch(
      [
        [-300, 640],
        [1900, 640],
        [1900, 1000],
        [-300, 1000],
      ],
      palette.wood,
      30,
      90,
    );
    things(pen, palette);
  },
  mid: NOTHING,
  front: NOTHING,
});

export const kitchen = room((pen, palette) => {
  pen.box(150, 120, 360, 400, palette.wood);
  pen.box(176, 146, 308, 348, palette.skyLow);
  pen.blob(330, 470, 330, 120, palette.green);
  pen.line([330, 146], [330, 494], { strokeWidth: 9 });
  pen.line([176, 310], [484, 310], { strokeWidth: 9 });
  pen.box(1080, 330, 420, 24, palette.wood);
  for (const [x, w, h, c] of [
    [1110, 60, 96, '#b7c4b1'],
    [1200, 44, 120, '#c98f6d'],
    [1270, 70, 76, '#8aa0a8'],
    [1370, 54, 110, '#c9b48c'],
  ] as const)
    pen.box(x, 330 - h, w, h, c);
  pen.blob(1290, 130, 90, 90, '#efe7d2');
  pen.line([1290, 130], [1290, 98]);
  pen.line([1290, 130], [1314, 140]);
});

export const workshop = room((pen, palette) => {
  pen.box(60, 90, 620, 360, palette.wood);
  pen.hatch(
    [
      [60, 90],
      [680, 90],
      [680, 450],
      [60, 450],
    ],
    palette.dark,
    40,
    0,
  );
  for (const [x, length] of [
    [130, 170],
    [210, 220],
    [300, 150],
    [400, 240],
    [500, 180],
    [590, 200],
  ] as const) {
    pen.box(x, 140, 18, length, palette.dark);
    pen.box(x - 18, 126, 54, 40, palette.stone);
  }
  pen.box(1060, 110, 380, 300, palette.skyLow);
  for (const x of [1060, 1186, 1314, 1440]) pen.line([x, 110], [x, 410], { strokeWidth: 8 });
  pen.box(1000, 560, 700, 40, palette.wood);
  pen.shape(
    [
      [1120, 560],
      [1180, 470],
      [1360, 460],
      [1420, 560],
    ],
    '#c9b48c',
  );
});
