/** Numbers that come again for a seed; Lehmer's generator with the multiplier of Park and Miller, from memory. */
export function numbers(seed: number): (below: number) => number {
  let state = seed;
  return (below) => (state = (state * 48_271) % 2_147_483_647) % below;
}
