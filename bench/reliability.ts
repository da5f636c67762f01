import { init } from 'echarts';

/** Of what was stated to be so likely, how much was right. */
export interface Tenth {
  readonly count: number;
  /** Means of what was stated, and of what was right, from 0 to 1. */
  readonly stated: number;
  readonly right: number;
}

/** Something of which was stated how likely it is. */
export interface Stated {
  /** From 0 to 1. */
  readonly chance: number;
  readonly isRight: boolean;
}

/** With fewer cases a tenth says nothing of how right it is: that it is a twentieth off may be by chance. */
const ENOUGH = 100;

/** Of each tenth with enough cases how far stated and seen chances are apart. */
export function tenths(all: Iterable<Stated>): Tenth[] {
  const sums = Array.from({ length: 10 }, () => ({ count: 0, stated: 0, right: 0 }));
  for (const { chance, isRight } of all) {
    const tenth = sums[Math.min(9, Math.floor(chance * 10))];
    if (!tenth) continue;
    tenth.count += 1;
    tenth.stated += chance;
    tenth.right += isRight ? 1 : 0;
  }
  return sums
    .filter(({ count }) => count >= ENOUGH)
    .map(({ count, right, stated }) => ({ count, stated: stated / count, right: right / count }));
}

/** How far the worst of some tenths is off. */
export const mostApart = (some: readonly Tenth[]): number =>
  Math.max(...some.map(({ right, stated }) => Math.abs(right - stated)));

const INK = '#2a2823';
const MUTED = '#655f52';
const LINE = '#d8cfbb';
const COLOURS = ['#234f4a', '#8a5a0b', '#a2362c'];

/** Draws stated against seen chances, a line for each set, as SVG; the larger a point the more cases stand behind it. */
export function reliabilityChart(sets: ReadonlyMap<string, readonly Tenth[]>): string {
  const chart = init(null, null, { renderer: 'svg', ssr: true, width: 760, height: 520 });
  const axis = (name: string) => ({
    type: 'value' as const,
    ...{ name, nameLocation: 'middle' as const, nameGap: 34, min: 0, max: 1, interval: 0.2 },
    axisLabel: { color: MUTED },
    axisLine: { lineStyle: { color: MUTED } },
    splitLine: { lineStyle: { color: LINE } },
  });
  chart.setOption({
    animation: false,
    backgroundColor: '#fffdf8',
    textStyle: { fontFamily: 'sans-serif', color: INK },
    legend: { top: 10, textStyle: { color: INK } },
    grid: { left: 70, right: 30, top: 50, bottom: 60 },
    xAxis: axis('stated chance'),
    yAxis: axis('share that was right'),
    series: [
      {
        ...{ name: 'as stated', type: 'line', symbol: 'none', color: MUTED },
        ...{
          lineStyle: { type: 'dashed' },
          data: [
            [0, 0],
            [1, 1],
          ],
        },
      },
      ...[...sets].map(([name, tenths], at) => ({
        ...{ name, type: 'line' as const, symbol: 'circle', color: COLOURS[at % COLOURS.length] as string },
        symbolSize: ([, , count = 0]: readonly number[]) => Math.max(4, Math.min(22, 3 * Math.log10(1 + count) ** 1.4)),
        data: tenths.map(({ count, right, stated }) => [stated, right, count]),
      })),
    ],
  });
  const svg = chart.renderToSVGString();
  chart.dispose();
  return svg;
}
