import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import MiniSearch from 'minisearch';
import { dist } from '@larder/command/home';
import { BUILT_IN, fold, words, type FieldId } from '@larder/core/fields';
import { parseQuery, type Query } from '@larder/core/query';
import { SpokenIndex } from '@larder/core/dialogue';
import { LibraryIndex, packFlat, RELEVANCE, type SearchDocument, type SortOrder } from '@larder/core/search';
import { Merger } from '../packages/server/src/search/merger';
import { IndexSnapshots } from '../packages/server/src/search/snapshot';
import { median, round, seconds, type Figure } from './kit';
import { document, queries, type Asked } from './search-corpus';
import { FullText } from './search-fulltext';
import { searchServed } from './search-served';

const SIZES = [10_000, 100_000, 1_000_000] as const;
const QUERIES = 500;
const WARMING = 1000;
const SHOWN = 200;
const BINS = 1000;
const FACETS: readonly FieldId[] = ['kind', 'verdict', 'storage', 'tag', 'reel', 'shot'];
const FACET_LIMIT = 20;
const ORDERS: readonly SortOrder[] = (
  [
    ['name', false],
    ['shot', true],
    ['duration', false],
    ['added', true],
    ['title', false],
    ['size', true],
    [RELEVANCE, true],
  ] as const
).map(([field, descending]) => ({ field, descending }));
/** Asked of the peers, which take long. */
const PEER_QUERIES = 50;
/** The general-purpose library does not hold more in reasonable time. */
const MOST_OF_LIBRARY = 100_000;

type Print = (figure: Figure & { readonly n: number }) => void;

const treeOf = (text: string): Query => {
  const { tree, issues } = parseQuery(text);
  if (issues.length > 0) throw new Error(`${text}: ${JSON.stringify(issues)}`);
  return tree;
};

/** A whole answer: how many, the first in an order, and what there is to narrow it by. */
function answer(index: LibraryIndex, tree: Query, at: number): number {
  const { total } = index.search({ tree, sort: ORDERS[at % ORDERS.length] as SortOrder, offset: 0, limit: SHOWN });
  index.facets({ tree, fields: FACETS, limit: FACET_LIMIT });
  return total;
}

const timed = (work: () => void): number => {
  const began = performance.now();
  work();
  return performance.now() - began;
};
const quantile = (sorted: readonly number[], part: number): number =>
  sorted[Math.min(sorted.length - 1, Math.ceil(sorted.length * part) - 1)] as number;
const ascending = (values: readonly number[]): number[] => values.toSorted((a, b) => a - b);
const yielded = (): Promise<void> => new Promise((resolve) => setImmediate(resolve));
/** Bytes of this thread, without those that it shares with others. */
const used = (): number => {
  globalThis.gc?.();
  const { heapUsed, external } = process.memoryUsage();
  return heapUsed + external;
};
const sharedBytes = (index: LibraryIndex): number =>
  index.keep().reduce((sum, { data }) => sum + packFlat(data).bytes, 0);

function build(n: number): { readonly index: LibraryIndex; readonly cpuSeconds: number } {
  const index = new LibraryIndex();
  const filling = index.fill();
  let cpu = 0;
  const measured = (work: () => void): void => {
    const before = process.cpuUsage();
    work();
    const { user, system } = process.cpuUsage(before);
    cpu += (user + system) / 1e6;
  };
  // Making the documents up is not building the index.
  for (let id = 1; id <= n; id += 2000) {
    const batch: SearchDocument[] = [];
    for (let each = id; each < id + 2000 && each <= n; each += 1) batch.push(document(each));
    measured(() => filling.add(batch));
  }
  measured(() => filling.done());
  return { index, cpuSeconds: cpu };
}

/** Times of all searches, one after the other, while a merge goes on in a thread of its own. */
async function timesWhileMerging(index: LibraryIndex, asked: readonly Asked[], n: number) {
  const trees = asked.map(({ text }) => treeOf(text));
  queries(WARMING, n, 99).forEach(({ text }, at) => answer(index, treeOf(text), at));
  // As much as makes a merge due, from all over the library.
  const changed = Math.max(Math.floor(n * 0.05), 20_000) + 1000;
  const merger = new Merger(dist('merge-thread.mjs'), index);
  for (let at = 0; at < changed; at += 1000) {
    // Smaller merges go on as they come due.
    while (await merger.mergeIfDue());
    index.upsert(Array.from({ length: 1000 }, (_unused, k) => document(1 + (((at + k) * 7919) % n))));
  }
  let peak = 0;
  const look = (): void => void (peak = Math.max(peak, process.memoryUsage.rss()));
  let merging = true;
  const merged = merger.mergeIfDue().finally(() => (merging = false));
  const times: number[] = [];
  let during = 0;
  for (const [at, tree] of trees.entries()) {
    await yielded();
    if (merging) during += 1;
    times.push(timed(() => answer(index, tree, at)));
    look();
  }
  while (merging) {
    await new Promise((resolve) => setTimeout(resolve, 20));
    look();
  }
  const did = await merged;
  if (!did) throw new Error('no merge was due');
  return { times, during, peak };
}

function editFigures(index: LibraryIndex, n: number): { readonly edit: number; readonly batch: number } {
  const tree = treeOf('tag:justnow');
  const edited = (id: number): SearchDocument => {
    const { values } = document(id);
    return { id, values: { ...values, tag: ['justnow'] } };
  };
  const visible = (ids: readonly number[]): number => {
    const documents = ids.map(edited);
    return timed(() => {
      index.upsert(documents);
      if (index.search({ tree, sort: { field: 'name', descending: false }, offset: 0, limit: 1 }).total === 0)
        throw new Error('an edit is not found');
    });
  };
  const singles = Array.from({ length: 200 }, (_unused, at) => visible([1 + ((at * 104_729) % n)]));
  const batches = Array.from({ length: 10 }, (_unused, at) =>
    visible([...new Set(Array.from({ length: 1000 }, (_none, k) => 1 + (((at * 1000 + k) * 6151) % n)))]),
  );
  return { edit: quantile(ascending(singles), 0.95), batch: median(batches) };
}

/**
 * The share of a core that it takes to keep the counts of a thousand live bins through a hundred edits a second, of which the server
 * reads those of a fifth of a second together.
 */
function binsFigure(index: LibraryIndex, n: number): number {
  const bins = queries(BINS, n, 21).map(({ text }) => treeOf(text));
  index.counts(bins);
  const before = process.cpuUsage();
  const batches = 50;
  let made = 0;
  for (let batch = 0; batch < batches; batch += 1) {
    const edits = Array.from({ length: 20 }, (_unused, at) => 1 + (((batch * 20 + at) * 15_485_863) % n));
    const began = process.cpuUsage();
    const documents = edits.map((id) => document(id));
    const { user, system } = process.cpuUsage(began);
    made += user + system;
    index.upsert(documents);
    index.counts(bins);
  }
  const { user, system } = process.cpuUsage(before);
  for (const [at, count] of index.counts(bins).entries())
    if (at % 50 === 0 && count !== index.count(bins[at] as Query))
      throw new Error(`${JSON.stringify(bins[at])} is counted wrong`);
  return (user + system - made) / 1e6 / (batches / 5);
}

async function keptFigure(index: LibraryIndex): Promise<number> {
  const folder = mkdtempSync(join(tmpdir(), 'larder-bench-index-'));
  try {
    const spoken = new SpokenIndex({ ways: () => [], isHeard: () => false }).keep();
    const state = { revision: 1, mark: null, documents: '' };
    await new IndexSnapshots(folder).save({ parts: index.keep(), spoken, state });
    const began = performance.now();
    const kept = await new IndexSnapshots(folder).load();
    const again = new LibraryIndex();
    again.restore(kept?.parts ?? []);
    if (again.count(treeOf('kind:video')) !== index.count(treeOf('kind:video')))
      throw new Error('what was kept differs');
    return seconds(began);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** The same searches by a general-purpose search library: words only, with the first in the order of how well they fit. */
function libraryTimes(n: number, asked: readonly Asked[]): readonly number[] {
  const peer = new MiniSearch<{ id: number; text: string }>({
    fields: ['text'],
    tokenize: (text) => words(text),
    processTerm: (term) => fold(term),
  });
  for (let id = 1; id <= n; id += 1) {
    const { values } = document(id);
    peer.add({ id, text: BUILT_IN.plain.map((field) => String(values[field] ?? '')).join(' ') });
  }
  return asked.map(({ text }) => timed(() => peer.search(text, { combineWith: 'AND' }).slice(0, SHOWN)));
}

const WORDED = ['word', 'words', 'three'];

async function engineAt(n: number, print: Print): Promise<void> {
  const before = used();
  const { index, cpuSeconds } = build(n);
  const figure = (name: string, value: number, unit: string, peer: string | null = null, ratio: number | null = null) =>
    print({ name: `search.${name}`, n, value: round(value), unit, peer, ratio: ratio === null ? null : round(ratio) });
  figure('build', cpuSeconds, 'CPU s');
  figure('load', await keptFigure(index), 's');
  const asked = queries(QUERIES, n, 7);
  const { times, during, peak } = await timesWhileMerging(index, asked, n);
  const sorted = ascending(times);
  const said = `${during} of ${QUERIES} asked while a merge went on`;
  figure('p50', quantile(sorted, 0.5), 'ms', said);
  figure('p95', quantile(sorted, 0.95), 'ms', said);
  figure('p99', quantile(sorted, 0.99), 'ms', said);
  figure('max', quantile(sorted, 1), 'ms', said);
  figure('mergePeak', peak / 1e6, 'MB');
  const inside = queries(4000, n, 11)
    .filter(({ form }) => form === 'inName' || form === 'inPath')
    .map(({ text }) => treeOf(text))
    .filter((tree) => index.count(tree) < 10_000);
  const fresh = new Set(inside.map((tree) => JSON.stringify(tree)));
  figure(
    'substring.p95',
    quantile(
      ascending(
        substringTimes(
          n,
          [...fresh].slice(0, 300).map((text) => JSON.parse(text) as Query),
          index,
        ),
      ),
      0.95,
    ),
    'ms',
  );
  figure('bytesPerAsset', (used() - before + sharedBytes(index)) / n, 'B');
  const { edit, batch } = editFigures(index, n);
  figure('edit', edit, 'ms');
  figure('batch1000', batch, 'ms');
  figure('bins', binsFigure(index, n), 'cores');
  await peers(index, n, asked, figure);
}

/** Without what the counting before may have left behind: the index is put together anew from the same segments. */
function substringTimes(n: number, trees: readonly Query[], index: LibraryIndex): number[] {
  const again = new LibraryIndex();
  again.restore(index.keep());
  queries(100, n, 12).forEach(({ text }, at) => answer(again, treeOf(text), at));
  return trees.map((tree, at) => timed(() => answer(again, tree, at)));
}

async function peers(
  index: LibraryIndex,
  n: number,
  asked: readonly Asked[],
  figure: (name: string, value: number, unit: string, peer: string, ratio: number) => void,
): Promise<void> {
  const worded = asked.filter(({ form }) => WORDED.includes(form)).slice(0, PEER_QUERIES);
  const ours = (some: readonly Asked[]) =>
    some.map(({ text }, at) => {
      const tree = treeOf(text);
      return timed(() => void answer(index, tree, at + 1));
    });
  if (n <= MOST_OF_LIBRARY) {
    const [theirs, own] = [libraryTimes(n, worded), ours(worded)];
    const ratio = median(theirs) / median(own);
    figure(
      'vsLibrary',
      ratio,
      'times as quick',
      `minisearch, words without facets: ${round(median(theirs))} ms`,
      ratio,
    );
  }
  const fullText = await FullText.filled(n);
  try {
    const theirs: number[] = [];
    for (const [at, { text }] of worded.slice(0, PEER_QUERIES).entries())
      theirs.push(await fullText.answer(words(text), at));
    const own = ours(worded.slice(0, theirs.length));
    const ratio = median(theirs) / median(own);
    figure('vsFulltext', ratio, 'times as quick', `MariaDB FULLTEXT with SQL: ${round(median(theirs))} ms`, ratio);
  } finally {
    await fullText.stop();
  }
}

const sized = (n: number) => (print: Print) => engineAt(n, print);

/** What the index takes, by the number of assets in it; and what searching takes as people do it. */
export const search = {
  small: sized(SIZES[0]),
  middle: sized(SIZES[1]),
  large: sized(SIZES[2]),
  'served-small': searchServed(SIZES[0]),
  'served-middle': searchServed(SIZES[1]),
  'served-large': searchServed(SIZES[2]),
};
