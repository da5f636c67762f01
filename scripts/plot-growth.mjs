// Draws how figures grow with the library: node scripts/plot-growth.mjs FIGURES.jsonl OUT.svg
// FIGURES.jsonl holds what `./larder bench` prints; of a figure that is there twice the last one counts.
import { readFileSync, writeFileSync } from 'node:fs';
import { init } from 'echarts';

const [from, to] = process.argv.slice(2);
if (!from || !to) throw new Error('usage: node scripts/plot-growth.mjs FIGURES.jsonl OUT.svg');

/** @type {Map<string, {unit: string, of: Map<number, number>}>} */
const figures = new Map();
for (const line of readFileSync(from, 'utf8').split('\n').filter(Boolean)) {
  const { name, n, value, unit } = JSON.parse(line);
  if (n === undefined) continue;
  const figure = figures.get(name) ?? { unit, of: new Map() };
  figures.set(name, { unit, of: figure.of.set(n, value) });
}

const INK = '#2a2823';
const MUTED = '#655f52';
const LINE = '#d8cfbb';
const COLOURS = ['#234f4a', '#a2362c', '#8a5a0b', '#3d6a35', '#5b4a86', '#2f6590', '#8f4a6b', '#655f52'];
const grown = [...figures].filter(([, { of }]) => of.size > 1);
const panels = [
  { title: 'milliseconds', of: grown.filter(([, { unit }]) => unit === 'ms') },
  { title: 'all else, in the units named', of: grown.filter(([, { unit }]) => unit !== 'ms') },
];

const chart = init(null, null, { renderer: 'svg', ssr: true, width: 1100, height: 480 });
chart.setOption({
  animation: false,
  backgroundColor: '#fffdf8',
  textStyle: { fontFamily: 'sans-serif', color: INK },
  title: panels.map(({ title }, at) => ({ text: title, left: `${at * 50 + 5}%`, top: 8, textStyle: { fontSize: 14 } })),
  grid: panels.map((_panel, at) => ({ left: `${at * 50 + 5}%`, width: '27%', top: 46, bottom: 44 })),
  xAxis: panels.map((_panel, gridIndex) => ({
    gridIndex,
    type: 'log',
    name: 'assets',
    nameLocation: 'middle',
    nameGap: 26,
    min: 10_000,
    max: 1_000_000,
    axisLabel: { color: MUTED, formatter: (value) => value.toLocaleString('en') },
    axisLine: { lineStyle: { color: MUTED } },
    splitLine: { show: false },
  })),
  yAxis: panels.map((_panel, gridIndex) => ({
    gridIndex,
    type: 'log',
    axisLabel: { color: MUTED },
    splitLine: { lineStyle: { color: LINE } },
  })),
  series: panels.flatMap(({ of }, at) =>
    of.map(([name, { unit, of: values }], index) => ({
      type: 'line',
      xAxisIndex: at,
      yAxisIndex: at,
      data: [...values].sort(([a], [b]) => a - b),
      symbolSize: 6,
      color: COLOURS[index % COLOURS.length],
      endLabel: {
        show: true,
        color: COLOURS[index % COLOURS.length],
        formatter: ({ value }) =>
          `${name.split('.').slice(1).join('.')} ${value[1].toLocaleString('en')}${at === 0 ? '' : ` ${unit}`}`,
      },
      labelLayout: { moveOverlap: 'shiftY' },
    })),
  ),
});
const svg = chart.renderToSVGString();
chart.dispose();
writeFileSync(to, svg);
