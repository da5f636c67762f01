import type { Sequelize } from 'sequelize';
import { placeOfMs, type SpokenPlace } from '@larder/core/dialogue';
import { gathered } from '@larder/core/gather';
import { writeRows } from '@larder/core/interchange/table';
import { firstNot } from '@larder/core/search';
import type { RunMarker, StringOutItem } from '@larder/core/sequence';
import type { Counting } from '@larder/core/timecode';
import { countingOf, type Asset, type HitFormat, type HitsTaken, type Person, type TakenFile } from '@larder/contract';
import { assetsById } from '../store/assets';
import { dismissedHits, hitKey } from '../store/dismissed-hits';
import { refused } from '../store/errors';
import { itemsOfParts } from '../store/projects';
import { placesIn } from '../store/timed-transcripts';
import { narrowedTo, questionOf } from './asked-of-speech';
import { CUT_LISTS, type Loaded } from './cut-lists';
import { fileName } from './files';
import type { Services } from './handlers';

/** So many are written at once; whoever wants more wants something narrower. */
const MOST_HITS = 20_000;
/** What is cut has so much before and after it. */
const HANDLES_MS = 1000;
const FILES_AT_ONCE = 500;
const LONGEST_NAME = 200;

type HitListServices = Pick<Services, 'db' | 'fields' | 'search' | 'store'>;

/** What was found in what is said, to be taken along: as a list of markers, or cut together. */
export async function takenHits(services: HitListServices, asked: HitsTaken, person: Person): Promise<TakenFile> {
  const { said = '' } = asked;
  const title = `Said: ${said}`;
  const { text, type } = await WAYS[asked.format](services, title, said, await hitsOf(services, asked, person));
  return { name: fileName(title, asked.format), type, text };
}

interface Hit extends SpokenPlace {
  readonly asset: Asset;
}

/** All hits but those that the person dismissed, file by file in the order that was asked for. */
async function hitsOf({ db, fields, search }: HitListServices, asked: HitsTaken, person: Person): Promise<Hit[]> {
  const question = questionOf(asked);
  const tree = await narrowedTo(asked.query, person, fields);
  const { atLeast = 0, notch = 0, sort = 'best' } = asked;
  const wanted = { ask: 'spoken', question, notch, tree, sort, offset: 0, atLeast } as const;
  // Counted first: to write out a million hits would keep everybody waiting.
  const counted = await search.ask({ ...wanted, limit: 0 });
  const found = counted.value.notches[notch]?.hits ?? 0;
  if (found > MOST_HITS)
    throw refused(`That is found ${found} times, and a list has at most ${MOST_HITS}. Look for something narrower.`);
  const { value } = await search.ask({ ...wanted, limit: MOST_HITS, most: MOST_HITS });
  const hits: Hit[] = [];
  for (let at = 0; at < value.files.length; at += FILES_AT_ONCE) {
    const files = value.files.slice(at, at + FILES_AT_ONCE);
    const ids = files.map(({ id }) => id);
    const assets = new Map((await assetsById(db, ids)).map((asset) => [asset.id, asset]));
    const dismissed = await dismissedHits(db, person.id, question.items, ids);
    for (const file of files) {
      const asset = assets.get(file.id);
      if (!asset) continue;
      for (const hit of file.hits) if (!dismissed.has(hitKey(file.id, hit.startMs))) hits.push({ ...hit, asset });
    }
  }
  return hits;
}

const noteOf = ({ confidence, heard, spelled }: SpokenPlace): string =>
  `${confidence}% likely, ${spelled ? 'as spelled' : `heard as “${heard}”`}`;

const HEAD = 'Asset,File,Path,Reel,Start,End,Looked for,Heard,Likely,Spelled,Before,After'.split(',');

function listed(said: string, hits: readonly Hit[]): string {
  const rows = hits.map(({ after, asset, before, confidence, endMs, heard, spelled, startMs }) => {
    const placeOf = placesIn(asset);
    return [
      ...[String(asset.id), asset.name, `${asset.storage}/${asset.path}`, asset.reel ?? ''],
      ...[placeOf(startMs), placeOf(endMs), said, heard, `${confidence}%`, spelled ? 'yes' : 'no', before, after],
    ];
  });
  return writeRows([HEAD, ...rows], ',');
}

/** A run of all that has a moving picture, with a marker on each hit; counted as most of it is. */
async function cutTogether(db: Sequelize, title: string, said: string, hits: readonly Hit[]): Promise<Loaded> {
  const parts = hits.map(({ asset, endMs, startMs }) => ({ assetId: asset.id, startMs, endMs }));
  const items = await itemsOfParts(db, parts, HANDLES_MS);
  const counting = commonest(hits.map(({ asset }) => asset));
  if (items.length === 0 || !counting) throw refused('None of these has a moving picture, so there is nothing to cut.');
  return {
    stringOut: { title, counting, startFrame: 3600 * counting.nominal, items },
    markers: markersOn(items, said, hits),
    assets: new Map(
      (await assetsById(db, [...new Set(items.map(({ assetId }) => assetId))])).map((asset) => [asset.id, asset]),
    ),
  };
}

function commonest(assets: readonly Asset[]): Counting | null {
  const counts = new Map<string, { readonly counting: Counting; readonly often: number }>();
  for (const asset of assets) {
    const counting = countingOf(asset);
    if (counting) counts.set(counting.id, { counting, often: (counts.get(counting.id)?.often ?? 0) + 1 });
  }
  return [...counts.values()].sort((a, b) => b.often - a.often)[0]?.counting ?? null;
}

/** A marker for each hit, on what is cut of it. */
function markersOn(items: readonly StringOutItem[], said: string, hits: readonly Hit[]): RunMarker[] {
  const byAsset = gathered(items, ({ assetId }) => assetId);
  return hits.flatMap((hit, n) => {
    const { asset, endMs, startMs } = hit;
    const start = asset.inPlace + placeOfMs(startMs, asset.rate);
    const own = byAsset.get(asset.parentId ?? asset.id) ?? [];
    const item = own[firstNot((at) => (own[at] as StringOutItem).in <= start, 0, own.length) - 1];
    if (!item || start >= item.out) return [];
    const end = Math.max(start + 1, Math.min(item.out, asset.inPlace + placeOfMs(endMs, asset.rate) + 1));
    return {
      ...{ id: `hit-${n}`, itemId: item.id, start, end, kind: 'note', colour: 'yellow', by: null },
      ...{ name: said.slice(0, LONGEST_NAME), note: noteOf(hit) },
    } as const;
  });
}

type Way = (
  services: HitListServices,
  title: string,
  said: string,
  hits: readonly Hit[],
) => Promise<{ readonly text: string; readonly type: string }>;

const asCutList =
  (format: 'edl' | 'otio'): Way =>
  async ({ db, store }, title, said, hits) => {
    const { type, write } = CUT_LISTS[format];
    return { type, text: await write(db, await cutTogether(db, title, said, hits), { media: 'mezzanine', store }) };
  };

const WAYS: Readonly<Record<HitFormat, Way>> = {
  csv: (_services, _title, said, hits) =>
    Promise.resolve({ type: 'text/csv; charset=utf-8', text: listed(said, hits) }),
  edl: asCutList('edl'),
  otio: asCutList('otio'),
};
