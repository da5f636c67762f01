import { createCanvas, type Canvas } from '@napi-rs/canvas';
import { random, seedOf } from '../random';
import type { CastMember, Picture } from '../script';
import { stripBits, stripHeight } from './frame-strip';
import { PALETTES, type Palette } from './palette';
import { Pen, WORLD, type Point } from './pen';
import { drawPerson } from './people';
import { DRAWINGS, NOTHING, type PlaceDrawing } from './places';

/** Drawn this often over and taken in turn, so that lines live as they do in hand-drawn films. */
const BOILS = 3;
const BOILS_A_SECOND = 5;
/** Layers are drawn this much larger than the picture, for the camera to move in. */
const MARGIN = 0.16;
const ZOOM = { wide: 1, mid: 1.75, close: 2.7 } as const;
/** How much each layer follows the camera: what is far away moves least. */
const PARALLAX = [0.35, 0.75, 1.15] as const;

export interface FilmOptions extends Picture {
  readonly name: string;
  readonly person: CastMember | null;
  /** From 0 to 1, how open a mouth is at a time in seconds; what is spoken decides. */
  readonly mouthAt: (seconds: number) => number;
  readonly seconds: number;
}

/** A drawn place, filmed: gives the pixels of any frame. The same options give the same pixels. */
export class Film {
  private readonly picture: Canvas;
  /** Each layer once a boil; null where a place draws nothing in it. */
  private readonly layers: (readonly (Canvas | null)[])[];
  private readonly palette: Palette;
  private readonly drawing: PlaceDrawing;
  private readonly scale: number;
  private readonly seed: number;
  private readonly glints: readonly { x: number; y: number; length: number; speed: number }[];

  constructor(private readonly options: FilmOptions) {
    const [width, height] = options.size;
    this.seed = seedOf(options.name);
    this.drawing = DRAWINGS[options.place];
    this.palette = PALETTES[options.light];
    this.picture = createCanvas(width, height);
    // The world fills the picture; a portrait picture shows a strip of it.
    this.scale = Math.max(width / WORLD.width, height / WORLD.height) * ZOOM[options.shot];
    const { back, mid, front } = this.drawing;
    this.layers = Array.from({ length: BOILS }, (_unused, boil) => {
      const drawn = [back, mid, front].map((draw) => this.layer(draw, boil));
      // A camera that stands still sees back and middle as one; that is most of the work of a frame.
      return this.still ? [null, this.merged(drawn.slice(0, 2)), drawn[2] ?? null] : drawn;
    });
    const next = random(this.seed);
    const [top, bottom] = this.drawing.water ?? [0, 0];
    this.glints = this.drawing.water
      ? Array.from({ length: 46 }, () => ({
          x: next() * 1900 - 150,
          y: top + 14 + next() ** 1.5 * (bottom - top),
          length: 20 + next() * 70,
          speed: 8 + next() * 26,
        }))
      : [];
  }

  private get still(): boolean {
    return this.options.moves !== 'pan' && this.options.moves !== 'push';
  }

  private merged(layers: readonly (Canvas | null)[]): Canvas {
    const [width, height] = this.options.size;
    const canvas = createCanvas(width, height);
    for (const layer of layers)
      if (layer) canvas.getContext('2d').drawImage(layer, (width - layer.width) / 2, (height - layer.height) / 2);
    return canvas;
  }

  private layer(draw: PlaceDrawing['back'], boil: number): Canvas | null {
    if (draw === NOTHING) return null;
    const [width, height] = this.options.size;
    const pen = Pen.on(
      Math.round(width * (1 + MARGIN)),
      Math.round(height * (1 + MARGIN)),
      1000 + boil * 131,
      this.palette.ink,
    );
    this.aim(pen, (width * MARGIN) / 2, (height * MARGIN) / 2);
    draw(pen, this.palette);
    return pen.canvas;
  }

  /** Places the world so that the shot's focus is in the middle of the picture. */
  private aim(pen: Pen, dx: number, dy: number): void {
    const [width, height] = this.options.size;
    const [fx, fy] = this.focus();
    pen.ctx.setTransform(
      this.scale,
      0,
      0,
      this.scale,
      width / 2 - fx * this.scale + dx,
      height / 2 - fy * this.scale + dy,
    );
  }

  private focus(): Point {
    const { shot, who } = this.options;
    if (shot === 'wide') return [WORLD.width / 2, WORLD.height / 2];
    const { stand, height, focus } = this.drawing;
    // With somebody in the picture the camera looks at the face.
    if (!who) return focus;
    return [stand[0] + 40, stand[1] - height * (shot === 'close' ? 0.86 : 0.72)];
  }

  /** RGBA bytes of the frame at a time, with its number in the strip along the top. */
  frame(frame: number, seconds: number): Buffer {
    const [width, height] = this.options.size;
    const ctx = this.picture.getContext('2d');
    const boil = Math.floor(seconds * BOILS_A_SECOND) % BOILS;
    const progress = seconds / this.options.seconds - 0.5;
    const drift = this.options.moves === 'pan' ? progress * width * MARGIN * 0.8 : 0;
    const push = this.options.moves === 'push' ? 1 + (progress + 0.5) * MARGIN * 0.7 : 1;
    const pen = new Pen(this.picture, ctx, this.seed + boil * 97, this.palette.ink);
    const overlay = (parallax: number, draw: () => void) => {
      ctx.save();
      this.aim(pen, -drift * parallax, 0);
      draw();
      ctx.restore();
    };
    this.layers[boil]?.forEach((image, index) => {
      const parallax = PARALLAX[index] ?? 1;
      const grown = 1 + (push - 1) * parallax;
      const [w, h] = [(image?.width ?? 0) * grown, (image?.height ?? 0) * grown];
      if (image && this.still) ctx.drawImage(image, Math.round((width - w) / 2), Math.round((height - h) / 2));
      else if (image) ctx.drawImage(image, (width - w) / 2 - drift * parallax, (height - h) / 2, w, h);
      if (index === 1) overlay(parallax, () => this.life(pen, seconds, boil));
    });
    this.weather(pen, seconds);
    this.strip(frame);
    return this.picture.data();
  }

  /** What moves in the place by itself: water, boats, bells, fire and people. */
  private life(pen: Pen, seconds: number, boil: number): void {
    const { ctx } = pen;
    const { water, flicker, bell, stand, height } = this.drawing;
    ctx.strokeStyle = this.palette.glint;
    ctx.lineCap = 'round';
    for (const { x, y, length, speed } of this.glints) {
      const at = ((x + seconds * speed + 2000) % 2050) - 150;
      ctx.globalAlpha = 0.35 + 0.35 * Math.sin(seconds * 3 + x);
      ctx.lineWidth = 3;
      ctx.beginPath();
      ctx.moveTo(at, y);
      ctx.lineTo(at + length, y + Math.sin(seconds * 2 + x) * 2);
      ctx.stroke();
    }
    ctx.globalAlpha = 1;
    if (this.options.boat && water)
      this.boat(pen, 100 + (seconds / this.options.seconds) * 900, water[0] + 70 + Math.sin(seconds * 1.6) * 3);
    if (flicker)
      pen.glow(
        flicker[0],
        flicker[1],
        420 + Math.sin(seconds * 17) * 30 + boil * 20,
        this.palette.lamp,
        0.5 + 0.12 * Math.sin(seconds * 11),
      );
    if (bell) this.bell(pen, bell, Math.sin(seconds * 1.8) * 0.07);
    const { person } = this.options;
    if (person)
      drawPerson(pen, stand, height, person, {
        mouth: this.options.mouthAt(seconds),
        blink: (seconds + 0.7) % 3.1 < 0.12,
        sway: Math.sin(seconds * 0.9) * 0.12,
      });
  }

  private boat(pen: Pen, x: number, y: number): void {
    pen.shape(
      [
        [x - 260, y - 40],
        [x + 250, y - 46],
        [x + 290, y - 70],
        [x + 250, y + 14],
        [x - 240, y + 14],
        [x - 280, y - 14],
      ],
      '#34506b',
    );
    pen.box(x - 200, y - 106, 330, 64, '#8a3f35');
    for (const part of [-170, -100, -30, 40]) pen.box(x + part, y - 92, 40, 28, this.palette.lamp);
    pen.box(x - 235, y - 128, 16, 84, this.palette.dark);
    pen.line([x - 260, y - 24], [x + 262, y - 30], { stroke: '#e5d7a8', strokeWidth: 4 });
  }

  private bell(pen: Pen, [x, y]: Point, angle: number): void {
    const { ctx } = pen;
    ctx.save();
    ctx.translate(x, y);
    ctx.rotate(angle);
    pen.line([0, -60], [0, 20], { strokeWidth: 7 });
    pen.shape(
      [
        [-46, 20],
        [46, 20],
        [84, 120],
        [104, 250],
        [150, 330],
        [-150, 330],
        [-104, 250],
        [-84, 120],
      ],
      '#a77b3c',
    );
    pen.hatch(
      [
        [-46, 20],
        [-10, 20],
        [-20, 320],
        [-140, 326],
        [-104, 250],
        [-84, 120],
      ],
      '#5b4020',
      14,
    );
    pen.curve(
      [
        [-112, 250],
        [0, 268],
        [112, 250],
      ],
      { strokeWidth: 4 },
    );
    pen.blob(0, 344, 44, 44, '#4b3a2a');
    ctx.restore();
  }

  private weather({ ctx }: Pen, seconds: number): void {
    const [width, height] = this.options.size;
    if (this.options.light === 'rain') {
      const next = random(this.seed + 3);
      ctx.strokeStyle = '#e8eef0';
      ctx.lineWidth = Math.max(1, width / 900);
      ctx.globalAlpha = 0.5;
      ctx.beginPath();
      for (let n = 0; n < 120; n += 1) {
        const x = next() * width * 1.1;
        const y = ((next() + seconds * (1.4 + next())) % 1) * height;
        ctx.moveTo(x, y);
        ctx.lineTo(x - width * 0.008, y + height * 0.05);
      }
      ctx.stroke();
      ctx.globalAlpha = 1;
    }
    if (this.options.light === 'dawn') {
      const mist = ctx.createLinearGradient(0, height * 0.5, 0, height * 0.85);
      mist.addColorStop(0, 'rgba(250,244,236,0)');
      mist.addColorStop(0.5, `rgba(250,244,236,${0.32 + 0.06 * Math.sin(seconds)})`);
      mist.addColorStop(1, 'rgba(250,244,236,0)');
      ctx.fillStyle = mist;
      ctx.fillRect(0, height * 0.5, width, height * 0.35);
    }
    if (this.options.aged) {
      ctx.fillStyle = 'rgba(122,88,42,0.34)';
      ctx.fillRect(0, 0, width, height);
      const next = random(this.seed + Math.floor(seconds * 12));
      ctx.fillStyle = 'rgba(250,240,220,0.5)';
      for (let n = 0; n < 7; n += 1) ctx.fillRect(next() * width, next() * height, 2, 2 + next() * 16);
    }
  }

  private strip(frame: number): void {
    const ctx = this.picture.getContext('2d');
    const [width, height] = this.options.size;
    const bits = stripBits(frame);
    const block = width / bits.length;
    bits.forEach((bit, index) => {
      ctx.fillStyle = bit ? '#fff' : '#000';
      ctx.fillRect(Math.round(index * block), 0, Math.ceil(block), stripHeight(height));
    });
  }

  png(frame: number, seconds: number): Buffer {
    this.frame(frame, seconds);
    return this.picture.toBuffer('image/png');
  }

  jpeg(seconds: number): Buffer {
    this.frame(0, seconds);
    return this.picture.toBuffer('image/jpeg', 90);
  }
}
