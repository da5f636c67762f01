import type { CastMember } from '../script';
import type { Pen, Point } from './pen';

export interface Pose {
  /** From 0, mouth shut, to 1. */
  readonly mouth: number;
  readonly blink: boolean;
  /** A small nod or sway, in parts of the height. */
  readonly sway: number;
}

/** A person standing at a point, drawn anew for each frame since they move. */
export function drawPerson(
  pen: Pen,
  [x, foot]: Point,
  height: number,
  { coat, hair, skin }: CastMember,
  { mouth, blink, sway }: Pose,
): void {
  const unit = height / 8;
  const cx = x + sway * unit;
  const head = foot - height + unit * 0.9;
  const stroke = { strokeWidth: Math.max(2, unit / 26), roughness: 0.9 };
  pen.shape(
    [
      [x - unit * 0.9, foot],
      [x - unit * 0.8, foot - unit * 3.6],
      [x + unit * 0.8, foot - unit * 3.6],
      [x + unit * 0.9, foot],
    ],
    '#3a3b40',
    stroke,
  );
  pen.shape(
    [
      [x - unit * 1.7, foot - unit * 3.3],
      [cx - unit * 1.55, head + unit * 1.75],
      [cx - unit * 0.4, head + unit * 1.1],
      [cx + unit * 0.4, head + unit * 1.1],
      [cx + unit * 1.55, head + unit * 1.75],
      [x + unit * 1.7, foot - unit * 3.3],
    ],
    coat,
    stroke,
  );
  pen.shape(
    [
      [cx - unit * 0.3, head + unit * 0.5],
      [cx + unit * 0.3, head + unit * 0.5],
      [cx + unit * 0.22, head + unit * 1.4],
      [cx - unit * 0.22, head + unit * 1.4],
    ],
    skin,
    stroke,
  );
  pen.blob(cx, head - unit * 0.08, unit * 1.62, unit * 1.9, hair, stroke);
  pen.blob(cx, head + unit * 0.12, unit * 1.3, unit * 1.6, skin, stroke);
  pen.shape(
    [
      [cx - unit * 0.66, head - unit * 0.05],
      [cx - unit * 0.4, head - unit * 0.66],
      [cx + unit * 0.5, head - unit * 0.7],
      [cx + unit * 0.68, head - unit * 0.02],
      [cx + unit * 0.3, head - unit * 0.36],
      [cx - unit * 0.3, head - unit * 0.32],
    ],
    hair,
    { ...stroke, stroke: 'none' },
  );
  for (const side of [-1, 1]) {
    const eye: Point = [cx + side * unit * 0.27, head + unit * 0.08];
    if (blink) pen.line([eye[0] - unit * 0.09, eye[1]], [eye[0] + unit * 0.09, eye[1]], stroke);
    else pen.blob(eye[0], eye[1], unit * 0.11, unit * 0.14, '#26221f', { ...stroke, stroke: 'none' });
    pen.curve(
      [
        [eye[0] - unit * 0.14, eye[1] - unit * 0.17],
        [eye[0], eye[1] - unit * 0.23],
        [eye[0] + unit * 0.14, eye[1] - unit * 0.17],
      ],
      stroke,
    );
  }
  pen.curve(
    [
      [cx, head + unit * 0.12],
      [cx - unit * 0.08, head + unit * 0.36],
      [cx + unit * 0.06, head + unit * 0.38],
    ],
    stroke,
  );
  // A smile when shut; talking opens it.
  if (mouth < 0.12)
    pen.curve(
      [
        [cx - unit * 0.24, head + unit * 0.56],
        [cx, head + unit * 0.63],
        [cx + unit * 0.24, head + unit * 0.56],
      ],
      stroke,
    );
  else pen.blob(cx, head + unit * 0.6, unit * 0.42, unit * (0.06 + mouth * 0.16), '#6b2f2a', stroke);
}
