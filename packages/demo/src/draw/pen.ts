import { createCanvas, type Canvas, type SKRSContext2D } from '@napi-rs/canvas';
import rough from 'roughjs';
import type { RoughCanvas } from 'roughjs/bin/canvas';
import type { Options } from 'roughjs/bin/core';

/** The world in which places are drawn; a camera looks at a part of it. */
export const WORLD = { width: 1600, height: 900 } as const;

export type Point = readonly [number, number];

/** Draws wobbly filled shapes as if by hand, in world units. The seed decides the wobble. */
export class Pen {
  private readonly rough: RoughCanvas;
  private strokes = 0;

  constructor(
    readonly canvas: Canvas,
    readonly ctx: SKRSContext2D,
    private readonly seed: number,
    private readonly ink: string,
  ) {
    this.rough = rough.canvas(canvas as unknown as HTMLCanvasElement);
  }

  static on(width: number, height: number, seed: number, ink: string): Pen {
    const canvas = createCanvas(width, height);
    return new Pen(canvas, canvas.getContext('2d'), seed, ink);
  }

  private options(fill: string | null, more: Options = {}): Options {
    this.strokes += 1;
    return {
      seed: ((this.seed + this.strokes * 7919) % 2 ** 31) + 1,
      roughness: 1.6,
      bowing: 1.2,
      strokeWidth: 3,
      stroke: this.ink,
      ...(fill ? { fill, fillStyle: 'solid' } : {}),
      ...more,
    };
  }

  shape(points: readonly Point[], fill: string, more: Options = {}): void {
    this.rough.polygon(points as [number, number][], this.options(fill, more));
  }

  box(x: number, y: number, width: number, height: number, fill: string, more: Options = {}): void {
    this.rough.rectangle(x, y, width, height, this.options(fill, more));
  }

  blob(x: number, y: number, width: number, height: number, fill: string, more: Options = {}): void {
    this.rough.ellipse(x, y, width, height, this.options(fill, more));
  }

  line(from: Point, to: Point, more: Options = {}): void {
    this.rough.line(from[0], from[1], to[0], to[1], this.options(null, more));
  }

  curve(points: readonly Point[], more: Options = {}): void {
    this.rough.curve(points as [number, number][], this.options(null, more));
  }

  /** Pencil shading over a shape. */
  hatch(points: readonly Point[], colour: string, gap = 12, angle = -41): void {
    this.rough.polygon(
      points as [number, number][],
      this.options(colour, {
        fillStyle: 'hachure',
        hachureGap: gap,
        hachureAngle: angle,
        fillWeight: 1.4,
        stroke: 'none',
      }),
    );
  }

  /** A wash from one colour to another, top to bottom. */
  wash(top: number, bottom: number, from: string, to: string): void {
    const gradient = this.ctx.createLinearGradient(0, top, 0, bottom);
    gradient.addColorStop(0, from);
    gradient.addColorStop(1, to);
    this.ctx.fillStyle = gradient;
    this.ctx.fillRect(-400, top, WORLD.width + 800, bottom - top);
  }

  glow(x: number, y: number, radius: number, colour: string, strength = 0.8): void {
    const gradient = this.ctx.createRadialGradient(x, y, 0, x, y, radius);
    gradient.addColorStop(
      0,
      colour +
        Math.round(strength * 255)
          .toString(16)
          .padStart(2, '0'),
    );
    gradient.addColorStop(1, `${colour}00`);
    this.ctx.fillStyle = gradient;
    this.ctx.fillRect(x - radius, y - radius, radius * 2, radius * 2);
  }
}
