import type { Sequelize } from 'sequelize';
import { gathered } from '@larder/core/gather';
import { readEdl, wordEdlIssue } from '@larder/core/interchange/edl';
import { readOtio, wordOtioIssue } from '@larder/core/interchange/otio';
import {
  conformCheck,
  wordConformIssue,
  type ConformLibrary,
  type ConformMedia,
  type ConformReport,
  type CutList,
} from '@larder/core/sequence';
import { countingById, type Counting } from '@larder/core/timecode';
import type { ConformAnswer, ConformRequest } from '@larder/contract';
import { assetsById, mediaOf } from './assets';
import { listedAmong } from './listed-clips';
import { select } from './database';
import { refused } from './errors';
import { pathHash } from '../jobs/catalogue';

function readText({ fileName, text, counting }: ConformRequest): { list: CutList; issues: string[] } {
  // The content decides, not the name: lists come back from mail and chat under all sorts of names.
  if (text.trimStart().startsWith('{')) {
    const { list, issues } = readOtio(text);
    if (!list) throw refused(`${fileName} cannot be read. ${issues.map(wordOtioIssue).join(' ')}`);
    return { list, issues: issues.map(wordOtioIssue) };
  }
  const { list, issues } = readEdl(text, countingById(counting) as Counting);
  if (list.events.length === 0)
    throw refused(
      `${fileName} is no cut list that can be read here. ${issues.slice(0, 3).map(wordEdlIssue).join(' ')}`,
    );
  return { list, issues: issues.map(wordEdlIssue) };
}

/** The assets that any event could mean, fetched at once, so that a list of a thousand events is four queries. */
async function libraryFor(db: Sequelize, { events }: CutList): Promise<ConformLibrary> {
  const texts = (read: (event: CutList['events'][number]) => string | null) => [
    ...new Set(events.flatMap((event) => read(event) ?? [])),
  ];
  const [reels, names, files] = [
    texts((event) => event.reel),
    texts((event) => event.clipName),
    texts((event) => event.sourceFile),
  ];
  const hashes = files.map((file) => pathHash(file.slice(file.indexOf('/') + 1)));
  const rows = await select<{ id: number }>(
    db,
    `SELECT id FROM asset WHERE parent_id IS NULL AND (id IN (:ids) OR reel IN (:reels) OR name IN (:names) OR path_hash IN (:hashes)) LIMIT 20000`,
    {
      ids: [0, ...events.flatMap((event) => event.assetId ?? [])],
      reels: ['', ...reels],
      names: ['', ...names],
      hashes: ['', ...hashes],
    },
  );
  const ids = rows.map((row) => row.id);
  const [assets, listed] = await Promise.all([assetsById(db, ids), listedAmong(db, ids)]);
  const media = assets.flatMap((asset): ConformMedia[] => {
    const of = mediaOf(asset);
    return of ? [{ ...of, isListed: listed.has(asset.id) }] : [];
  });
  const by = (key: (each: ConformMedia) => string | null) => {
    const groups = gathered(media, key);
    return (value: string): readonly ConformMedia[] => groups.get(value) ?? [];
  };
  const byId = new Map(media.map((each) => [each.assetId, each]));
  return {
    byId: (id) => byId.get(id),
    byPath: by((each) => each.path),
    byReel: by((each) => each.reel),
    byName: by((each) => each.name),
  };
}

/** A cut list that was brought in, with every event of it checked against the library. */
export async function checkedList(
  db: Sequelize,
  request: ConformRequest,
): Promise<{ readonly list: CutList; readonly issues: readonly string[]; readonly report: ConformReport }> {
  const { list, issues } = readText(request);
  return { list, issues, report: conformCheck(list, await libraryFor(db, list)) };
}

/** Reads a cut list brought in and checks every event of it against the library. */
export async function conformList(db: Sequelize, request: ConformRequest): Promise<ConformAnswer> {
  const { list, issues, report } = await checkedList(db, request);
  return {
    title: list.title,
    counting: list.counting.id,
    clean: report.clean && issues.length === 0,
    events: report.events.map(({ media, ...rest }) => ({
      ...rest,
      asset: media && { id: media.assetId, name: media.name },
      words: rest.issues.map(wordConformIssue),
    })),
    issues,
  };
}
