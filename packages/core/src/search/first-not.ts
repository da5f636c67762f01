/** The first number from `low` up to `high` of which something no longer holds; it must hold of none after that. */
export function firstNot(holds: (at: number) => boolean, low: number, high: number): number {
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (holds(middle)) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** As `firstNot`, looked for in steps that double: where it is near to `low`, few are looked at. */
export function firstNotNear(holds: (at: number) => boolean, low: number, end: number): number {
  let [high, step] = [low, 1];
  while (high < end && holds(high)) {
    low = high + 1;
    high += step;
    step *= 2;
  }
  return firstNot(holds, low, Math.min(high, end));
}
