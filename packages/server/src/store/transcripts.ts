import { isDeepStrictEqual } from 'node:util';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import {
  corrected,
  namedSpeaker,
  packSpoken,
  spokenWithin,
  TRANSCRIPT_SOURCES,
  unpackSpoken,
  type SpeakerFrom,
  type Spoken,
  type SpokenWord,
  type TranscriptSource,
} from '@larder/core/dialogue';
import type { Correction, TranscriptAnswer, TranscriptAt, TranscriptInfo, Written } from '@larder/contract';
import { write, type Writing } from './change-feed';
import { select, selectByIds } from './database';
import { notFound, refused } from './errors';

/** What a transcript is, beside its words. */
export interface TranscriptMade {
  readonly source: TranscriptSource;
  readonly language: string;
  /** The program and its model, or the file. */
  readonly madeBy: string;
}

interface Row extends TranscriptMade {
  readonly version: number;
  readonly madeMs: number;
  readonly spoken: string;
}

/** An hour has some 9,000, a day of speech about as many as this; with more, one statement would be too long for the database. */
const MOST_WORDS = 200_000;
/** Which words stay is told by comparing each with each of the new ones; a passage has some eighty. */
const MOST_CORRECTED = 2000;
const BEST_FIRST = TRANSCRIPT_SOURCES.map((source) => `'${source}'`).join(', ');

/** What is said in an asset, and by what it is known whether that is another by now. */
export interface SpokenNow extends Spoken {
  readonly mark: string;
}

/** Of each asset what is said in it, by its best transcript; of a subclip, what is said within it. */
export async function spokenOn(db: Sequelize, assetIds: readonly number[]): Promise<Map<number, SpokenNow>> {
  const spoken = new Map<number, SpokenNow>();
  for (const { fromMs, id, madeMs, toMs, transcriptId, version, ...row } of await selectByIds<BestRow>(
    db,
    SELECT_BEST,
    assetIds,
  )) {
    const all = unpackSpoken(row.spoken);
    const said = fromMs === null ? all : spokenWithin(all, Number(fromMs), Number(toMs));
    spoken.set(id, { ...said, mark: [transcriptId, version, madeMs, fromMs, toMs].join(' ') });
  }
  return spoken;
}

interface BestRow {
  readonly id: number;
  readonly spoken: string;
  readonly transcriptId: number;
  readonly version: number;
  readonly madeMs: number;
  /** Of a subclip where it lies in its whole, in milliseconds. */
  readonly fromMs: number | null;
  readonly toMs: number | null;
}

// Of a subclip in frames: where it lies in the whole, in milliseconds.
const SELECT_BEST = `SELECT a.id, t.spoken, t.id AS transcriptId, t.version, t.made_ms AS madeMs, IF(p.id IS NULL, NULL, ROUND(IF(p.rate_num > 0, a.in_place * 1000 * p.rate_den / p.rate_num, a.in_place))) AS fromMs, IF(p.id IS NULL, NULL, ROUND(IF(p.rate_num > 0, a.in_place * 1000 * p.rate_den / p.rate_num, a.in_place)) + a.duration_ms) AS toMs
   FROM asset a LEFT JOIN asset p ON p.id = a.parent_id
   JOIN transcript t ON t.id = (SELECT b.id FROM transcript b WHERE b.asset_id = COALESCE(a.parent_id, a.id) ORDER BY FIELD(b.source, ${BEST_FIRST}) LIMIT 1)
   WHERE a.id IN (:ids)`;

/** What there is of an asset, and the words of one source: the best, or the one that is asked for. */
export async function transcriptOf(
  db: Sequelize,
  assetId: number,
  source: TranscriptSource | null,
): Promise<TranscriptAnswer> {
  const sources = await select<TranscriptInfo>(
    db,
    `SELECT t.source, t.version, t.language, t.made_by AS madeBy, t.made_ms AS madeMs, p.name AS \`by\`
     FROM transcript t LEFT JOIN person p ON p.id = t.person_id WHERE t.asset_id = :assetId ORDER BY FIELD(t.source, ${BEST_FIRST})`,
    { assetId },
  );
  const info = source === null ? sources[0] : sources.find((each) => each.source === source);
  if (!info) return { sources, shown: null };
  const row = await rowOf(db, assetId, info.source);
  if (!row) return { sources, shown: null };
  const { speakers, words } = unpackSpoken(row.spoken);
  // Nobody reads the phones.
  const read = words.map(({ sounds: _sounds, ...word }) => word);
  return { sources, shown: { ...info, version: row.version, words: read, speakers } };
}

/** What was recognised in an asset; null where nothing was. */
export async function recognisedOn(db: Sequelize, assetId: number): Promise<Spoken | null> {
  const row = await rowOf(db, assetId, 'recognised');
  return row && unpackSpoken(row.spoken);
}

async function rowOf(
  db: Sequelize,
  assetId: number,
  source: TranscriptSource,
  transaction?: Transaction,
): Promise<Row | null> {
  const [row] = await select<Row>(
    db,
    `SELECT source, version, language, made_by AS madeBy, made_ms AS madeMs, spoken FROM transcript WHERE asset_id = :assetId AND source = :source${transaction ? ' FOR UPDATE' : ''}`,
    { assetId, source },
    transaction,
  );
  return row ?? null;
}

async function put(
  db: Sequelize,
  { transaction }: Writing,
  assetId: number,
  personId: number | null,
  { source, language, madeBy }: TranscriptMade,
  spoken: Spoken,
): Promise<number> {
  const madeMs = Date.now();
  if (spoken.words.length > MOST_WORDS)
    throw refused(`A transcript has at most ${MOST_WORDS.toLocaleString('en')} words.`);
  await db.query(
    `INSERT INTO transcript (asset_id, source, version, language, made_by, made_ms, person_id, spoken) VALUES (:assetId, :source, 1, :language, :madeBy, :madeMs, :personId, :spoken)
     ON DUPLICATE KEY UPDATE version = version + 1, language = VALUES(language), made_by = VALUES(made_by), made_ms = VALUES(made_ms), person_id = VALUES(person_id), spoken = VALUES(spoken)`,
    {
      replacements: { assetId, source, language, madeBy, personId, madeMs, spoken: packSpoken(spoken) },
      transaction,
      type: QueryTypes.INSERT,
    },
  );
  return madeMs;
}

/** The whole of a subclip, or the asset itself: transcripts are those of files. */
export async function wholeOf(db: Sequelize, assetId: number): Promise<number> {
  const [asset] = await select<{ id: number }>(
    db,
    'SELECT COALESCE(parent_id, id) AS id FROM asset WHERE id = :assetId',
    {
      assetId,
    },
  );
  if (!asset) throw notFound('asset');
  return asset.id;
}

/** What the feed says of a transcript that was replaced: the one before as a whole, and when the one was made that is there now, 0 for none. */
interface Replaced {
  readonly before: { readonly transcript?: TranscriptMade & Pick<Row, 'spoken'> };
  readonly after: { readonly source: TranscriptSource; readonly madeMs: number };
}

/** Keeps a transcript in place of the one of its source. */
export async function keepTranscript(
  db: Sequelize,
  personId: number | null,
  assetId: number,
  made: TranscriptMade,
  spoken: Spoken,
): Promise<Written> {
  const { revision, group, changed } = await write(db, personId, async (writing) => {
    const before = await rowOf(db, assetId, made.source, writing.transaction);
    const madeMs = await put(db, writing, assetId, personId, made, spoken);
    // What a recogniser heard it hears again; only what people made can be put back.
    const kept = personId === null ? null : before;
    tellReplaced(writing, assetId, kept, { ...made, madeMs }, spoken.words.length);
  });
  return { revision, group, changed };
}

function tellReplaced(
  { log }: Writing,
  assetId: number,
  before: Row | null,
  { source, madeBy, madeMs }: Pick<Row, 'source' | 'madeBy' | 'madeMs'>,
  words: number,
): void {
  log({
    ...{ action: 'transcript', entity: 'asset', entityId: assetId },
    before: before
      ? { transcript: { source, language: before.language, madeBy: before.madeBy, spoken: before.spoken } }
      : {},
    after: { source, madeBy, madeMs, words },
  });
}

const takeAway = (db: Sequelize, { transaction }: Writing, assetId: number, source: TranscriptSource) =>
  db.query('DELETE FROM transcript WHERE asset_id = :assetId AND source = :source', {
    replacements: { assetId, source },
    transaction,
    type: QueryTypes.DELETE,
  });

/** Takes a transcript away, so that what is best of the others is used. */
export async function removeTranscript(
  db: Sequelize,
  personId: number,
  assetId: number,
  { source, version }: TranscriptAt,
): Promise<Written> {
  const { revision, group, changed } = await write(db, personId, async (writing) => {
    const row = await rowOf(db, assetId, source, writing.transaction);
    if (!row) throw notFound('transcript');
    if (row.version !== version) throw refused('Somebody has changed this transcript since you opened it.');
    await takeAway(db, writing, assetId, source);
    tellReplaced(writing, assetId, row, { source, madeBy: '', madeMs: 0 }, 0);
  });
  return { revision, group, changed };
}

/** Puts back the transcripts that others took the place of, where these still stand. */
export async function putTranscriptsBack(
  db: Sequelize,
  writing: Writing,
  personId: number,
  entries: readonly { readonly entityId: number; readonly before: object; readonly after: object }[],
): Promise<void> {
  for (const { entityId, ...entry } of entries) {
    const { before, after } = entry as unknown as Replaced;
    const row = await rowOf(db, entityId, after.source, writing.transaction);
    if ((row?.madeMs ?? 0) !== after.madeMs)
      throw refused('Somebody has changed this transcript since. Nothing was undone.');
    const back = before.transcript;
    let madeMs = 0;
    if (back) madeMs = await put(db, writing, entityId, personId, back, unpackSpoken(back.spoken));
    else await takeAway(db, writing, entityId, after.source);
    const words = back ? unpackSpoken(back.spoken).words.length : 0;
    tellReplaced(writing, entityId, row, { source: after.source, madeBy: back?.madeBy ?? '', madeMs }, words);
  }
}

/** What a correction changed, and what it made of it. */
interface Corrected {
  readonly atMs: number;
  readonly words: readonly SpokenWord[];
  readonly speakers: readonly SpeakerFrom[];
}

/**
 * Puts other words in the place of some, or says who speaks them. What is corrected becomes a transcript of its own, beside the one
 * that it began as.
 */
export async function correctTranscript(
  db: Sequelize,
  personId: number,
  assetId: number,
  { source, version, from, to, text, speaker }: Correction,
): Promise<Written> {
  const { revision, group, changed } = await write(db, personId, async (writing) => {
    const row = await rowOf(db, assetId, source, writing.transaction);
    if (!row) throw notFound('transcript');
    if (row.version !== version || (source !== 'corrected' && (await isCorrected(db, writing, assetId))))
      throw refused('Somebody has corrected this transcript since you opened it. It is shown anew; say it again.');
    const before = unpackSpoken(row.spoken);
    if (from > to || to > before.words.length) throw refused('There are no such words in this transcript.');
    if (text !== undefined && to - from > MOST_CORRECTED)
      throw refused(`At most ${MOST_CORRECTED.toLocaleString('en')} words are corrected at once.`);
    const worded = text === undefined ? before : corrected(before, from, to, text);
    const count = to - from + worded.words.length - before.words.length;
    const after =
      speaker === undefined || count === 0 ? worded : namedSpeaker(worded, from, from + count, speaker.trim());
    if (isDeepStrictEqual(before, after)) return;
    await put(db, writing, assetId, personId, { ...row, source: 'corrected' }, after);
    const piece = ({ words, speakers }: Spoken, until: number): Corrected => ({
      atMs: (before.words[from] ?? before.words[from - 1])?.startMs ?? 0,
      words: words.slice(from, until),
      speakers,
    });
    writing.log({
      ...{ action: 'correct', entity: 'asset', entityId: assetId },
      before: { said: piece(before, to) },
      after: { said: piece(after, from + count) },
    });
  });
  return { revision, group, changed };
}

const isCorrected = async (db: Sequelize, { transaction }: Writing, assetId: number): Promise<boolean> =>
  (await rowOf(db, assetId, 'corrected', transaction)) !== null;

/** Takes corrections back, where what they made still stands. */
export async function putWordsBack(
  db: Sequelize,
  writing: Writing,
  personId: number,
  entries: readonly { readonly entityId: number; readonly before: object; readonly after: object }[],
): Promise<void> {
  for (const { entityId, before, after } of entries) {
    const [was, made] = [(before as { said: Corrected }).said, (after as { said: Corrected }).said];
    const row = await rowOf(db, entityId, 'corrected', writing.transaction);
    const { words, speakers } = row ? unpackSpoken(row.spoken) : { words: [], speakers: [] };
    const at = placeOf(words, made, was);
    const isSame =
      row !== null &&
      isDeepStrictEqual(words.slice(at, at + made.words.length), made.words) &&
      (isDeepStrictEqual(was.speakers, made.speakers) || isDeepStrictEqual(speakers, made.speakers));
    if (!isSame) throw refused('Somebody has corrected these words since. Nothing was undone.');
    const back = {
      words: [...words.slice(0, at), ...was.words, ...words.slice(at + made.words.length)],
      speakers: isDeepStrictEqual(was.speakers, made.speakers) ? speakers : was.speakers,
    };
    await put(db, writing, entityId, personId, row, back);
    writing.log({ action: 'correct', entity: 'asset', entityId, before: { said: made }, after: { said: was } });
  }
}

/** Where words stand now: others may have been put in before them. */
function placeOf(words: readonly SpokenWord[], { words: made, atMs }: Corrected, was: Corrected): number {
  const [first] = made;
  if (first) return words.findIndex((word) => isDeepStrictEqual(word, first));
  const after = words.findIndex(({ startMs }) => startMs >= (was.words.at(-1)?.endMs ?? atMs));
  return after < 0 ? words.length : after;
}
