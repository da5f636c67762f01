import type { Candidate, FileFacts, LostFile } from '@larder/core/relink';
import { gathered } from '@larder/core/gather';
import { countingById, type Counting } from '@larder/core/timecode';
import { random } from './search-corpus';

/** What may have become of a file. */
export const DAMAGES = [
  'moved',
  'renamed',
  'renumbered',
  'transcoded',
  'rewrapped',
  'trimmed',
  'truncated',
  'swapped',
  'retaken',
  'gone',
] as const;
export type Damage = (typeof DAMAGES)[number];

/** A lost original, what became of it, and the key of what is the same recording now; null where it is gone. */
export interface Case {
  readonly lost: LostFile;
  readonly damage: Damage;
  readonly is: string | null;
  /** As the keys of candidates, of what it was. */
  readonly of: string;
  /** What it should be found as: the same bytes, or the same stretch of time; null for what is not whole. */
  readonly wanted: 'exact' | 'equivalent' | null;
}

export interface DamagedLibrary {
  readonly cases: readonly Case[];
  readonly candidates: readonly Candidate[];
}

type Next = () => number;
const pick = <T>(list: readonly T[], next: Next): T => list[Math.floor(next() * list.length)] as T;
const whole = (next: Next, below: number): number => Math.floor(next() * below);
const hex = (next: Next): string =>
  Array.from({ length: 4 }, () => whole(next, 0x10000).toString(16).padStart(4, '0')).join('');
const padded = (n: number, digits: number): string => String(n).padStart(digits, '0');

/**
 * `plain`: mostly devices that say neither timecode nor reel, names that every card has again, and recorders that write each track into
 * a file of its own, all of one length, which begin and end in the same silence.
 */
export type Sort = 'usual' | 'plain';

/** How a camera or recorder writes: common practice of several makers, no source. */
interface Device {
  readonly name: (card: number, clip: number, next: Next) => string;
  readonly reel: (card: number) => string | null;
  readonly timecode: 'of day' | 'running' | 'none';
  readonly counting: Counting;
  readonly width: number | null;
  readonly height: number | null;
  readonly channels: number;
  /** Bytes a frame; every file of so many frames is of one size where they do not vary. */
  readonly bytesPerFrame: number;
  readonly varies: boolean;
  /** A long take is cut into files of so many frames. */
  readonly longest: number | null;
  /** Files that it writes of each take, a track each. */
  readonly tracks: number;
  /** What it writes down as the time of recording: that of the clip, that at which the card was begun, or nothing. */
  readonly says: 'clip' | 'card' | null;
}

const NO_PICTURE = { width: null, height: null } as const;
const HIGH = { width: 1920, height: 1080 } as const;
const HIGHER = { width: 3840, height: 2160 } as const;

function deviceOf(next: Next, letter: string, sort: Sort): Device {
  const isPlain = sort === 'plain';
  const counting = countingById(pick(['25', '25', '23.976', '50'], next)) as Counting;
  const isSound = next() < (isPlain ? 0.5 : 0.2);
  const style = isPlain ? 1 + whole(next, 3) : whole(next, 4);
  const names: readonly Device['name'][] = [
    (card, clip, more) => `${letter}${padded(card, 3)}C${padded(clip, 3)}_${hex(more).slice(0, 4)}`,
    (_card, clip) => `C${padded(clip, 4)}`,
    (_card, clip) => `DSC_${padded(clip, 4)}`,
    (_card, clip) => `T${padded(clip, 3)}`,
  ];
  return {
    name: names[isSound ? 3 : style % 3] as Device['name'],
    reel: style === 0 || next() < (isPlain ? 0.1 : 0.4) ? (card) => `${letter}${padded(card, 3)}` : () => null,
    timecode: pick(isPlain ? ['none', 'none', 'none', 'of day'] : ['of day', 'of day', 'running', 'none'], next),
    counting,
    ...(isSound ? NO_PICTURE : pick([HIGH, HIGH, HIGHER], next)),
    channels: isSound ? pick([2, 4, 8], next) : 2,
    bytesPerFrame: isSound ? 5760 : 200_000 + whole(next, 400_000),
    varies: !isSound && next() < 0.6,
    longest: next() < 0.3 ? 4500 : null,
    says: pick(isPlain ? ['card', null] : ['clip', 'clip', 'card', null], next),
    tracks: isPlain && isSound ? 2 + whole(next, 3) : 1,
  };
}

const EPOCH = Date.UTC(2026, 2, 2, 7);
const DAY_MS = 86_400_000;

/** What a production's devices wrote on a few days, each card in a folder of its own. */
function production(next: Next, at: number, sort: Sort): FileFacts[] {
  const files: FileFacts[] = [];
  const devices = ['A', 'B', 'C', 'R'].map((letter) => deviceOf(next, letter, sort));
  const running = devices.map(() => 0);
  const cards = devices.map(() => 0);
  // Brought in by something that does not keep times, hundreds of files are as old to the second or nearly.
  const copiedMs = next() < 0.4 ? EPOCH + (at * 9 + 4) * DAY_MS : null;
  for (let day = 0; day < 3; day += 1)
    devices.forEach((device, d) => {
      for (let n = 0; n < 2; n += 1) {
        const card = (cards[d] = (cards[d] as number) + 1);
        let ms = EPOCH + (at * 9 + day) * DAY_MS + n * 4 * 3_600_000 + whole(next, 600_000);
        const begunMs = ms;
        const folder = `Production ${at}/Day ${day + 1}/${String.fromCharCode(65 + d)}${padded(card, 3)}`;
        for (let clip = 1; clip <= 12; clip += 1) {
          const { counting } = device;
          const fps = counting.rate.num / counting.rate.den;
          const frames = device.longest && next() < 0.4 ? device.longest : 100 + whole(next, 3000);
          const ofDay = Math.floor(((ms % DAY_MS) / 1000) * fps);
          const startFrame =
            device.timecode === 'none'
              ? next() < 0.5
                ? null
                : 0
              : device.timecode === 'of day'
                ? ofDay
                : 90_000 + (running[d] as number);
          running[d] = (running[d] as number) + frames;
          const facts = {
            path: `${folder}/${device.name(card, clip, next)}.${device.width === null ? 'wav' : 'mov'}`,
            bytes: Math.round(frames * device.bytesPerFrame * (device.varies ? 0.8 + next() * 0.4 : 1)) + 4096,
            modifiedMs: copiedMs === null ? ms + Math.round((frames / fps) * 1000) : copiedMs + files.length * 200,
            fingerprint: hex(next),
            checksum: next() < 0.3 ? hex(next) : null,
            counting,
            durationFrames: frames,
            startFrame,
            reel: device.reel(card),
            width: device.width,
            height: device.height,
            channels: device.channels,
            shotMs: device.says === 'clip' ? ms : device.says === 'card' ? begunMs : null,
          };
          files.push(...tracksOf(facts, device.tracks, next));
          ms += Math.round((frames / fps) * 1000) + whole(next, 240_000);
        }
      }
    });
  return files;
}

/** The files of one take, a track each: of some both ends are the same silence, of others not. */
function tracksOf(facts: FileFacts, tracks: number, next: Next): FileFacts[] {
  if (tracks === 1) return [facts];
  const isSilent = next() < 0.7;
  return Array.from({ length: tracks }, (_unused, track) => ({
    ...facts,
    path: facts.path.replace(/(\.[^.]*)$/, `_${track + 1}$1`),
    fingerprint: isSilent ? facts.fingerprint : hex(next),
    checksum: facts.checksum === null ? null : hex(next),
  }));
}

const nameOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1);
const folderOf = (path: string): string => path.slice(0, path.lastIndexOf('/'));
const withExtension = (path: string, extension: string): string => path.replace(/\.[^.]*$/, `.${extension}`);

/** Where things are brought: with some of their folders, or none. */
function movedTo(path: string, next: Next): string {
  const parts = path.split('/');
  const kept = parts.slice(Math.min(parts.length - 1, 1 + whole(next, 3)));
  return ['Restored', ...kept].join('/');
}

/** Where nobody has read all of it yet there is no checksum; times are mostly kept. */
const copied = (facts: FileFacts, next: Next): FileFacts => ({
  ...facts,
  checksum: next() < 0.3 ? facts.checksum : null,
  modifiedMs: next() < 0.6 ? facts.modifiedMs : EPOCH + 90 * DAY_MS + whole(next, DAY_MS),
});

/** Another file of the same: what a converter keeps of what the first said is up to it. */
const converted = (facts: FileFacts, next: Next): FileFacts => ({
  ...facts,
  fingerprint: hex(next),
  checksum: null,
  modifiedMs: EPOCH + 90 * DAY_MS + whole(next, DAY_MS),
  reel: next() < 0.7 ? facts.reel : null,
  shotMs: next() < 0.4 ? facts.shotMs : null,
  startFrame: next() < 0.85 ? facts.startFrame : pick([0, null], next),
});

function damaged(facts: FileFacts, damage: Damage, next: Next): FileFacts | null {
  const { bytes, counting, durationFrames, path, startFrame } = facts;
  const frames = durationFrames ?? 0;
  switch (damage) {
    case 'moved':
    case 'swapped':
    case 'renumbered':
      return { ...copied(facts, next), path: movedTo(path, next) };
    case 'renamed': {
      const name = pick(
        [
          `SW_${nameOf(path)}`,
          `${hex(next).slice(0, 6)}.${path.split('.').at(-1)}`,
          `Interview ${whole(next, 90)}.mov`,
        ],
        next,
      );
      return { ...copied(facts, next), path: `${folderOf(movedTo(path, next))}/${name}` };
    }
    case 'transcoded': {
      const isSmall = next() < 0.5 && facts.width !== null;
      const named = withExtension(movedTo(path, next), pick(['mxf', 'mp4', 'mov'], next));
      return {
        ...converted(facts, next),
        path: isSmall ? named.replace(/(\.[^.]*)$/, '_proxy$1') : named,
        bytes: Math.round(bytes * (isSmall ? 0.05 + next() * 0.1 : 0.6 + next())),
        width: isSmall ? 960 : facts.width,
        height: isSmall ? 540 : facts.height,
      };
    }
    case 'rewrapped':
      return {
        ...converted(facts, next),
        path: withExtension(movedTo(path, next), 'mxf'),
        bytes: Math.round(bytes * (1 + next() * 0.01)) + 1,
      };
    case 'trimmed': {
      const from = 1 + whole(next, Math.max(1, frames / 2));
      const kept = Math.max(1, Math.floor((frames - from) * (0.3 + 0.6 * next())));
      return {
        ...converted(facts, next),
        path: movedTo(path, next),
        bytes: Math.round((bytes * kept) / frames),
        durationFrames: kept,
        startFrame: startFrame === null ? null : startFrame + (startFrame === 0 ? 0 : from),
      };
    }
    case 'truncated': {
      const kept = Math.max(1, Math.floor(frames * (0.2 + 0.7 * next())));
      return {
        ...copied(facts, next),
        path: movedTo(path, next),
        checksum: null,
        fingerprint: hex(next),
        bytes: Math.round((bytes * kept) / frames),
        durationFrames: next() < 0.7 ? kept : null,
      };
    }
    case 'retaken': {
      // Another take under the same name: what a camera writes on its next card.
      const length = next() < 0.3 ? frames : 100 + whole(next, 3000);
      return {
        ...facts,
        path: next() < 0.3 ? path : movedTo(path, next),
        bytes: Math.round((bytes * length) / frames),
        modifiedMs: (facts.modifiedMs ?? EPOCH) + (next() < 0.4 ? whole(next, 60_000) : whole(next, 5 * DAY_MS)),
        fingerprint: hex(next),
        checksum: null,
        counting,
        durationFrames: length,
        startFrame: startFrame === null || startFrame === 0 ? startFrame : startFrame + whole(next, 200_000),
        reel: next() < 0.5 ? facts.reel : facts.reel && `${facts.reel.slice(0, 1)}${padded(whole(next, 900), 3)}`,
        shotMs: facts.shotMs === null || next() < 0.3 ? facts.shotMs : facts.shotMs + whole(next, 5 * DAY_MS),
      };
    }
    case 'gone':
      return null;
    default:
      return damage satisfies never;
  }
}

const WANTED: Readonly<Record<Damage, Case['wanted']>> = {
  moved: 'exact',
  renamed: 'exact',
  renumbered: 'exact',
  swapped: 'exact',
  transcoded: 'equivalent',
  rewrapped: 'equivalent',
  trimmed: null,
  truncated: null,
  retaken: null,
  gone: null,
};

/** Productions of which some files are lost, and all that lies where they are looked for: what became of them, and what was always there. */
export function damagedLibrary(seed: number, productions: number, sort: Sort = 'usual'): DamagedLibrary {
  const next = random(seed);
  const cases: Case[] = [];
  const candidates: Candidate[] = [];
  for (let at = 1; at <= productions; at += 1) {
    const files = production(next, at, sort);
    const byPrint = gathered(files, ({ fingerprint }) => fingerprint);
    const damages = files.map(() => (next() < 0.5 ? pick(DAMAGES, next) : null));
    const now = files.map((facts, n) => {
      const damage = damages[n];
      return damage ? damaged(facts, damage, next) : facts;
    });
    // Names trade places: of what was swapped in pairs, of what was counted anew with the one before on the card.
    tradeNames(damages, now, 'swapped', 2);
    tradeNames(damages, now, 'renumbered', Infinity);
    files.forEach((facts, n) => {
      const key = `${at}/${n}`;
      const found = now[n];
      if (found) candidates.push({ key, facts: found });
      const damage = damages[n];
      if (!damage) return;
      const isWhole = found !== null && found !== undefined && damage !== 'retaken';
      const isSameTime = facts.startFrame !== null && found?.startFrame === facts.startFrame;
      // Of files that begin and end alike nothing but all of their bytes tells which is which.
      const alike = (byPrint.get(facts.fingerprint ?? '') ?? [])
        .map(({ path }) => path)
        .filter((path) => path !== facts.path);
      const isOwn = alike.length === 0 || (facts.checksum !== null && found?.checksum === facts.checksum);
      const isTold = WANTED[damage] === 'equivalent' ? isSameTime : isOwn;
      cases.push({
        lost: { assetId: cases.length, facts, alike, used: { from: 0, to: neededOf(facts, next) } },
        damage,
        of: key,
        is: isWhole ? key : null,
        wanted: isTold ? WANTED[damage] : null,
      });
    });
  }
  return { cases, candidates };
}

/**
 * A lost original as a cut list knows it that makes use of some of its frames: by reel and timecode, and as its file, as the editor called
 * it, or not at all. Null for what no list could tell so.
 */
export function asListed({ facts, ...lost }: LostFile, seed: number): LostFile | null {
  const { counting, durationFrames, path, reel, startFrame } = facts;
  if (reel === null || startFrame === null || !durationFrames) return null;
  const next = random(seed);
  const from = whole(next, durationFrames);
  const length = 1 + whole(next, durationFrames - from);
  const name = pick([path.slice(path.lastIndexOf('/') + 1), 'wide, second half', `${reel} ${startFrame + from}`], next);
  return {
    ...{ ...lost, alike: [], used: { from: 0, to: length } },
    facts: {
      ...{ path: `${reel}/${name}`, counting, reel, startFrame: startFrame + from, durationFrames: length },
      ...{ bytes: 0, modifiedMs: null, fingerprint: null, checksum: null, isListed: true },
      ...{ width: null, height: null, channels: null, shotMs: null },
    },
  };
}

/** Half of them are not cut with; of the others some part is needed from their first frame on. */
const neededOf = ({ durationFrames }: FileFacts, next: Next): number =>
  next() < 0.5 ? 0 : Math.floor((durationFrames ?? 0) * next());

/** Gives each of some files the path of the next, `run` by `run`. */
function tradeNames(damages: readonly (Damage | null)[], now: (FileFacts | null)[], damage: Damage, run: number): void {
  const mine = damages.flatMap((each, n) => (each === damage ? [n] : []));
  for (let from = 0; from < mine.length; from += run === Infinity ? mine.length : run) {
    const some = mine.slice(from, from + run);
    const paths = some.map((n) => now[n]?.path ?? '');
    some.forEach((n, at) => {
      const facts = now[n];
      if (facts) now[n] = { ...facts, path: paths[(at + 1) % paths.length] ?? facts.path };
    });
  }
}
