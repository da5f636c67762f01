import { signal } from '@angular/core';
import type { Counting } from '@larder/core/timecode';
import { followFrames, frameAt, secondsInto } from './follow-frames';

/** Each press of the shuttle key goes one further. Common practice, no source. */
export const SHUTTLE_SPEEDS = [1, 2, 4, 8, 16] as const;
/** How often a picture is shown while it runs backwards. */
const REVERSE_TICK_MS = 80;
/** Sound without frames is stepped as if it had these, a second. */
const SOUND_STEPS = 25;

/** What is played, as far as moving through it needs to know. */
export interface Playable {
  /** Null where there are no frames to count: then only `seconds` tells the place. */
  readonly counting: Counting | null;
  readonly frames: number;
  readonly seconds: number;
  /** Where in the element it begins: in frames, or in milliseconds without frames. More than 0 for a part of what is played. */
  readonly offset: number;
  readonly sound: boolean;
  /** What repeats while `loop` is on, in frames, or in milliseconds without frames: the end is outside. */
  readonly repeat: { readonly start: number; readonly end: number };
}

/**
 * Moves through what a media element plays, frame by frame.
 */
export class Transport {
  readonly frame = signal(0);
  readonly seconds = signal(0);
  /** Times the usual speed; negative is backwards, 0 is standing. */
  readonly shuttle = signal(0);
  readonly loop = signal(false);
  private reverse: ReturnType<typeof setInterval> | null = null;
  /** The frame that was asked for and has not been shown yet. */
  private wanted: number | null = null;

  constructor(
    private readonly playable: () => Playable,
    private readonly element: () => HTMLVideoElement | undefined,
  ) {}

  /** Something else is played from now on. */
  reset(): void {
    this.stopReverse();
    this.frame.set(0);
    this.seconds.set(0);
    this.shuttle.set(0);
    this.wanted = null;
  }

  /** Follows what the element really shows; gives what ends it. A part of something begins where it begins. */
  watch(element: HTMLVideoElement): () => void {
    if (this.playable().offset > 0) this.seekPlace(0);
    return followFrames(element, this.playable().sound, (seconds) => this.shown(seconds));
  }

  private shown(elapsed: number): void {
    const { counting, repeat, offset, frames } = this.playable();
    const seconds = counting ? elapsed : elapsed - offset / 1000;
    this.seconds.set(seconds);
    if (!counting) {
      if (this.loop() && this.shuttle() > 0 && seconds * 1000 >= repeat.end) this.seekPlace(repeat.start);
      else if (offset > 0 && seconds >= this.playable().seconds) this.stop();
      return;
    }
    const at = frameAt(seconds, counting.rate) - offset;
    const frame = this.inside(at);
    // A frame told after a seek was asked for is one on the way there: steps and marks pressed quickly would be lost.
    if (this.wanted !== null && this.wanted !== frame) return;
    this.wanted = null;
    this.frame.set(frame);
    if (this.loop() && this.shuttle() > 0 && frame >= repeat.end - 1) this.again();
    // A part ends where it ends, though what it is of goes on.
    else if (at >= frames && this.shuttle() > 0) {
      this.stop();
      this.seek(frames - 1);
    }
  }

  private inside(frame: number): number {
    return Math.min(Math.max(0, frame), Math.max(0, this.playable().frames - 1));
  }

  /** Where it stands: in frames, or in milliseconds without frames. */
  place(): number {
    return this.playable().counting ? this.frame() : Math.round(this.seconds() * 1000);
  }

  seekPlace(place: number): void {
    const element = this.element();
    if (this.playable().counting) this.seek(place);
    else if (element) element.currentTime = (place + this.playable().offset) / 1000;
  }

  /** Shows exactly this frame. */
  seek(frame: number): void {
    const element = this.element();
    const { counting, offset } = this.playable();
    if (!element || !counting) return;
    const target = this.inside(frame);
    this.wanted = target;
    this.frame.set(target);
    element.currentTime = secondsInto(target + offset, counting.rate);
  }

  /** Goes to a part of the whole, from 0 to 1. */
  seekPart(part: number): void {
    const element = this.element();
    const { counting, frames, seconds, offset } = this.playable();
    if (counting) return this.seek(Math.round(part * Math.max(0, frames - 1)));
    const whole = element && offset === 0 && Number.isFinite(element.duration) ? element.duration : seconds;
    this.seekPlace(part * whole * 1000);
  }

  step(frames: number): void {
    this.stop();
    const element = this.element();
    if (this.playable().counting) this.seek(this.frame() + frames);
    else if (element) element.currentTime = Math.max(0, element.currentTime + frames / SOUND_STEPS);
  }

  toggle(): void {
    if (this.shuttle() !== 0) this.stop();
    else this.run(1);
  }

  stop(): void {
    this.stopReverse();
    this.element()?.pause();
    this.shuttle.set(0);
  }

  faster(direction: 1 | -1): void {
    const now = this.shuttle();
    const index = Math.sign(now) === direction ? SHUTTLE_SPEEDS.findIndex((speed) => speed > Math.abs(now)) : 0;
    this.run(direction * (SHUTTLE_SPEEDS.at(index) ?? 1));
  }

  /** The element has come to its end. */
  ended(): void {
    if (this.loop() && this.shuttle() > 0) this.again();
    else this.shuttle.set(0);
  }

  private again(): void {
    this.seekPlace(this.playable().repeat.start);
    void this.element()
      ?.play()
      .catch(() => this.shuttle.set(0));
  }

  /** Plays at so many times the usual speed; below 0 backwards. */
  run(speed: number): void {
    const element = this.element();
    if (!element) return;
    this.stopReverse();
    this.shuttle.set(speed);
    if (speed < 0) return this.backwards(element, -speed);
    const { counting, frames, repeat } = this.playable();
    if (this.loop() && (this.place() < repeat.start || this.place() >= repeat.end - 1)) this.seekPlace(repeat.start);
    else if (counting && this.frame() >= frames - 1) this.seek(0);
    this.wanted = null;
    element.playbackRate = speed;
    void element.play().catch(() => this.shuttle.set(0));
  }

  /** Browsers do not play backwards; stepping at the rate's pace does. */
  private backwards(element: HTMLVideoElement, speed: number): void {
    element.pause();
    const { counting } = this.playable();
    const rate = counting ? counting.rate.num / counting.rate.den : SOUND_STEPS;
    const perTick = Math.max(1, Math.round((rate * speed * REVERSE_TICK_MS) / 1000));
    this.reverse = setInterval(() => {
      if (this.frame() <= 0 && counting) return this.stop();
      if (counting) this.seek(this.frame() - perTick);
      else element.currentTime = Math.max(0, element.currentTime - perTick / SOUND_STEPS);
    }, REVERSE_TICK_MS);
  }

  private stopReverse(): void {
    if (this.reverse) clearInterval(this.reverse);
    this.reverse = null;
  }
}
