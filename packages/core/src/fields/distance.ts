/** Edit distance with swaps (optimal string alignment): the single-letter changes and neighbour swaps that turn one word into the other. */
export function distance(a: string, b: string): number {
  let before: number[] = [];
  let row = Array.from({ length: b.length + 1 }, (_unused, index) => index);
  for (let i = 1; i <= a.length; i += 1) {
    const next = [i];
    for (let j = 1; j <= b.length; j += 1) {
      const change = (row[j - 1] as number) + (a[i - 1] === b[j - 1] ? 0 : 1);
      const swapped = i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1];
      next[j] = Math.min(
        (row[j] as number) + 1,
        (next[j - 1] as number) + 1,
        change,
        swapped ? (before[j - 2] as number) + 1 : Infinity,
      );
    }
    [before, row] = [row, next];
  }
  return row[b.length] as number;
}
