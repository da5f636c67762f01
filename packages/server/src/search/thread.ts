import { parentPort, workerData } from 'node:worker_threads';
import {
  heardPlaces,
  passagesWith,
  phonesText,
  rankedPassages,
  reduceQuestion,
  relatedSaid,
  spokenTotals,
  spokenWindow,
  themesOf,
  type SpokenPlace,
} from '@larder/core/dialogue';
import { spokenWords } from '@larder/core/fields';
import type { HeardTest, Query } from '@larder/core/query';
import { LibraryIndex } from '@larder/core/search';
import { Pronunciations } from '../media/pronunciations';
import { openDatabase } from '../store/database';
import { IndexKeeper } from './keeper';
import { Merger } from './merger';
import type {
  Answers,
  FromThread,
  InSpeech,
  PassagesRequest,
  Question,
  SpokenRequest,
  ThemePassagesRequest,
  ThreadOptions,
  ToThread,
} from './messages';
import { IndexSnapshots } from './snapshot';

/**
 * Asked of the database this often whether something was written, and what was is read together. Whoever asks for what was just
 * written is not kept waiting by it: such a question is read for at once.
 */
const POLL_MS = 200;
/** The index is kept this often if it changed; a start after a crash has no more than that to catch up. */
const KEEP_MS = 300_000;

const port = parentPort;
if (!port) throw new Error('the search index runs as a worker thread');
const { database, indexRoot, mergeScript } = workerData as ThreadOptions;
const db = openDatabase(database);
const pronunciations = await Pronunciations.read();
const keeper = new IndexKeeper(db, new LibraryIndex(), pronunciations);
const merger = new Merger(mergeScript, keeper.index);
const snapshots = new IndexSnapshots(indexRoot);
const waiting: { id: number; question: Question }[] = [];
let ready = false;

const send = (message: FromThread): void => port.postMessage(message);

function answer(question: Question): Answers[keyof Answers] {
  switch (question.ask) {
    case 'search':
      return keeper.index.search(question);
    case 'step':
      return keeper.index.step(question);
    case 'counts':
      return keeper.index.counts(question.trees);
    case 'facet':
      return keeper.index.facet(question.tree, question.field, question.limit);
    case 'facets':
      return keeper.index.facets(question);
    case 'map':
      return keeper.index.map(question);
    case 'spoken':
      return spoken(question);
    case 'passages':
      return passages(question);
    case 'totals':
      return totals(question);
    case 'related':
      return relatedSaid(keeper.spoken, question.terms, amongOf(question.tree));
    case 'reduced':
      return reduceQuestion(question.text, question.kept, question.known, keeper.spoken, amongOf(question.tree));
    case 'themes':
      return themesOf(keeper.spoken, amongOf(question.tree));
    case 'theme-passages':
      return themePassages(question);
    case 'heard':
      return heard(question.tests, question.ids);
    case 'days':
      return keeper.index.days(question.tree, question.field);
    default:
      return question satisfies never;
  }
}

/** The searches in a question. */
function treesOf(question: Question): readonly Query[] {
  if (question.ask === 'counts') return question.trees;
  const lift = 'lift' in question && question.lift ? [question.lift] : [];
  return 'tree' in question && question.tree ? [question.tree, ...lift] : lift;
}

const amongOf = (tree: Query | null): ((id: number) => boolean) | null =>
  tree === null ? null : keeper.index.finds(tree);

function passages({ question, notch, tree, ...window }: PassagesRequest): Answers['passages'] {
  const found = keeper.spoken.find(question, notch, amongOf(tree));
  return { notches: found.notches, ...rankedPassages(keeper.spoken, found, window) };
}

function totals({ question, notch, tree }: InSpeech): Answers['totals'] {
  const { index } = keeper;
  const found = keeper.spoken.find(question, notch, amongOf(tree));
  const about = (id: number) => ({ shotMs: index.numberBy(id, 'shot'), reel: index.saidBy(id, 'reel')[0] ?? '' });
  return { notches: found.notches, ...spokenTotals(keeper.spoken, found, about) };
}

function themePassages({ ids, terms, tree, ...window }: ThemePassagesRequest): Answers['theme-passages'] {
  const [among, wanted] = [amongOf(tree), new Set(ids)];
  const isAmong = (id: number): boolean => wanted.has(id) && (among === null || among(id));
  return passagesWith(keeper.spoken, isAmong, terms.map(spokenWords), window);
}

function heard(tests: readonly HeardTest[], ids: readonly number[]): Answers['heard'] {
  const places = new Map<number, SpokenPlace[]>();
  for (const test of tests)
    for (const [id, hits] of heardPlaces(keeper.spoken, test, ids))
      places.set(id, [...(places.get(id) ?? []), ...hits]);
  // What is heard in two ways at once is there once, as what is likelier.
  for (const [id, hits] of places) {
    const byTime = hits.toSorted((a, b) => a.startMs - b.startMs || b.confidence - a.confidence);
    places.set(
      id,
      byTime.filter(({ startMs }, at) => byTime[at - 1]?.startMs !== startMs),
    );
  }
  return places;
}

function spoken({ question, notch, tree, ...window }: SpokenRequest): Answers['spoken'] {
  const found = keeper.spoken.find(question, notch, amongOf(tree));
  return {
    notches: found.notches,
    files: spokenWindow(keeper.spoken, found, window),
    sounds: question.items.map(({ ways }) => ways.map(({ words }) => soundsOf(words))),
    searched: keeper.spoken.size,
  };
}

/** How some words sound; nothing where that is not known of one of them. */
function soundsOf(words: readonly string[]): string {
  const ways = words.map((word) => pronunciations.ways(word)[0]);
  return ways.every((way) => way !== undefined) ? ways.map((way) => phonesText(way)).join(' ') : '';
}

function settle(): void {
  if (!ready) return;
  const due = waiting.filter(({ question }) => question.atLeast <= keeper.revision);
  for (const each of due) {
    waiting.splice(waiting.indexOf(each), 1);
    try {
      send({ type: 'answer', id: each.id, revision: keeper.revision, value: answer(each.question) });
    } catch (error) {
      send({ type: 'refusal', id: each.id, message: (error as Error).message });
    }
  }
}

let catching = false;
async function catchUp(): Promise<void> {
  if (catching || !ready) return;
  catching = true;
  const before = keeper.revision;
  try {
    while (await keeper.catchUp()) settle();
  } catch {
    // The database is away; the next round tries again, and questions that need no newer revision are answered meanwhile.
  } finally {
    catching = false;
  }
  settle();
  if (keeper.revision > before) send({ type: 'current', revision: keeper.revision });
  if (await merger.mergeIfDue()) await keep();
}

let keptRevision = -1;
let keeping: Promise<void> = Promise.resolve();
/** Keeps the index for the next start, one time after the other. Where that fails, the next start reads the database instead. */
function keep(): Promise<void> {
  keeping = keeping.then(async () => {
    try {
      const kept = await keeper.keep();
      await snapshots.save(kept);
      keptRevision = kept.state.revision;
    } catch {
      keptRevision = -1;
    }
  });
  return keeping;
}

async function stop(): Promise<void> {
  if (ready && keptRevision !== keeper.revision) await keep();
  await db.close();
  process.exit(0);
}

async function start(): Promise<void> {
  const kept = await snapshots.load();
  if (kept && (await keeper.resume(kept))) keptRevision = kept.state.revision;
  else await keeper.build();
}

async function take(message: Extract<ToThread, { type: 'ask' }>): Promise<void> {
  const { question } = message;
  if (question.ask === 'spoken' || question.ask === 'passages' || question.ask === 'totals')
    await pronunciations.learn(question.question.items.flatMap(({ ways }) => ways.flatMap(({ words }) => words)));
  const trees = treesOf(question);
  if (trees.length > 0) await keeper.learnAsked(trees);
  // Asked again with less patience: the earlier asking is void.
  waiting.splice(0, waiting.length, ...waiting.filter((each) => each.id !== message.id), message);
  settle();
  if (question.atLeast > keeper.revision) void catchUp();
}

port.on('message', (message: ToThread) => {
  switch (message.type) {
    case 'ask':
      return void take(message);
    case 'stop':
      return void stop();
    default:
      return message satisfies never;
  }
});

await start();
ready = true;
send({ type: 'ready', revision: keeper.revision, assets: keeper.index.size });
settle();
setInterval(() => void catchUp(), POLL_MS);
setInterval(() => keptRevision !== keeper.revision && void keep(), KEEP_MS);
if (keptRevision < 0) void keep();
