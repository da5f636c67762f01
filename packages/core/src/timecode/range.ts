/** A stretch of frames: `start` is inside, `end` is the first frame outside. Always `start <= end`. */
export interface FrameRange {
  readonly start: number;
  readonly end: number;
}

export const frameRange = (start: number, end: number): FrameRange => ({ start, end: Math.max(start, end) });
export const rangeFrames = (range: FrameRange): number => range.end - range.start;
export const containsRange = (outer: FrameRange, inner: FrameRange): boolean =>
  inner.start >= outer.start && inner.end <= outer.end;

/** What two ranges share, or null if they only touch or lie apart. */
export function intersectRanges(a: FrameRange, b: FrameRange): FrameRange | null {
  const start = Math.max(a.start, b.start);
  const end = Math.min(a.end, b.end);
  return start < end ? { start, end } : null;
}
