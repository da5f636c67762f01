import { type PlaceDrawing } from './scenery';

export const foundry: PlaceDrawing = {
  focus: [980, 430],
  stand: [620, 730],
  height: 340,
  water: null,
  flicker: [330, 520],
  bell: [1000, 210],
  back: (pen, palette) => {
    pen.wash(-200, 1000, palette.skyTop, palette.skyLow);
    pen.box(-300, -100, 2200, 900, palette.far);
    pen.hatch(
      [
        [-300, -100],
        [1900, -100],
        [1900, 700],
        [-300, 700],
      ],
      palette.dark,
      34,
      0,
    );
    for (const x of [560, 1240])
      pen.shape(
        [
          [x, 180],
          [x + 60, 120],
          [x + 120, 180],
          [x + 120, 330],
          [x, 330],
        ],
        palette.skyLow,
      );
  },
  mid: (pen, palette) => {
    pen.shape(
      [
        [-300, 690],
        [1900, 680],
        [1900, 1000],
        [-300, 1000],
      ],
      palette.dark,
    );
    pen.shape(
      [
        [120, 690],
        [150, 380],
        [250, 300],
        [410, 300],
        [510, 380],
        [540, 690],
      ],
      palette.stone,
    );
    pen.hatch(
      [
        [120, 690],
        [150, 380],
        [250, 300],
        [410, 300],
        [510, 380],
        [540, 690],
      ],
      palette.ink,
      26,
      0,
    );
    pen.shape(
      [
        [230, 690],
        [236, 520],
        [330, 440],
        [424, 520],
        [430, 690],
      ],
      palette.lamp,
    );
    pen.shape(
      [
        [270, 690],
        [280, 570],
        [330, 510],
        [380, 570],
        [390, 690],
      ],
      '#ffe08a',
    );
    for (const x of [-40, 780, 1460]) pen.box(x, -100, 46, 800, palette.wood);
    pen.box(-300, 110, 2200, 46, palette.wood);
  },
  front: (pen, palette) => {
    pen.shape(
      [
        [1180, 900],
        [1210, 720],
        [1370, 720],
        [1400, 900],
      ],
      palette.stone,
    );
    pen.blob(1290, 722, 160, 40, palette.lamp);
    pen.box(-40, 800, 240, 120, palette.wood);
    pen.hatch(
      [
        [-40, 800],
        [200, 800],
        [200, 920],
        [-40, 920],
      ],
      palette.ink,
      18,
    );
  },
};
