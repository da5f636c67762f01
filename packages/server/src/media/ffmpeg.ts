import type { Rational } from '@larder/core/timecode';
import type { Asset } from '@larder/contract';
import type { RenditionStore } from './rendition-store';
import { run } from './run';

const TIMEOUT_MS = 6 * 3600 * 1000;
/** Enough for sixteen threads on 8K frames; a file that makes it balloon ends its own job and nothing else. */
const MEMORY_BYTES = 12 * 1024 ** 3;
/** Only local files, and never a question to whoever started it. Levels are printed, so that errors can be told from the rest. */
export const QUIET = ['-hide_banner', '-nostats', '-nostdin', '-y', '-protocol_whitelist', 'file,pipe'];

/** Where to seek, in seconds, for what is shown at such a time: half a frame before, since its very instant may land on the next. */
export const seekTo = (seconds: number, { den, num }: Rational): number => Math.max(0, seconds - den / num / 2);

/** What ffmpeg reads of an asset. */
export type Source = Pick<Asset, 'kind' | 'rate' | 'files' | 'gaps' | 'durationFrames'>;

export interface Original {
  readonly asset: Asset;
  /** The file itself, or the first picture of a sequence. */
  readonly path: string;
}

export interface Progress {
  readonly signal: AbortSignal;
  /** Frames done so far, at most as many as the asset has. */
  frames(done: number): void;
}

/** The number that ends the name of a picture of a sequence, and what stands around it. */
export function sequenceName(path: string): { before: string; digits: string; after: string } | null {
  const [, before = '', digits = '', after = ''] = /^(.*?)(\d+)(\.[^./]+)$/.exec(path) ?? [];
  return digits === '' ? null : { before, digits, after };
}

/** The arguments with which ffmpeg reads a file, or the pictures of a sequence from its first on. */
export function inputOf({ kind, rate }: Source, path: string): string[] {
  const name = kind === 'sequence' && rate ? sequenceName(path) : null;
  if (!name || !rate) return ['-i', path];
  // In a pattern a percent sign of the path itself is written twice.
  const pattern = `${name.before.replace(/%/g, '%%')}%0${name.digits.length}d${name.after.replace(/%/g, '%%')}`;
  return ['-framerate', `${rate.num}/${rate.den}`, '-start_number', String(Number(name.digits)), '-i', pattern];
}

/**
 * Hands out the arguments for reading an asset. A sequence with gaps is read through a folder of links in which the picture
 * before a gap stands in for those that are missing, so that every frame keeps its number.
 */
export async function withInput<T>(
  { asset, path }: Original,
  store: RenditionStore,
  use: (input: readonly string[]) => Promise<T>,
): Promise<T> {
  const name = asset.gaps.length > 0 ? sequenceName(path) : null;
  if (!name) return use(inputOf(asset, path));
  const first = Number(name.digits);
  const at = (number: number) => String(number).padStart(name.digits.length, '0');
  const links = Array.from({ length: asset.durationFrames ?? asset.files }, (_unused, frame) => {
    const gap = asset.gaps.find(([from, to]) => first + frame >= from && first + frame <= to);
    return {
      name: `f${at(first + frame)}${name.after}`,
      target: `${name.before}${at(gap ? gap[0] - 1 : first + frame)}${name.after}`,
    };
  });
  return store.withLinks(asset.id, links, (folder) => use(inputOf(asset, `${folder}/f${name.digits}${name.after}`)));
}

const LEVEL = /^(?:\[[^\]]* @ [^\]]*\] )*\[(panic|fatal|error|warning|info)\] /;

export interface Listening extends Progress {
  /** Each line that is no error, with its level taken off. */
  readonly onLine?: (line: string) => void;
  /** What is written to descriptor 3. */
  readonly onExtra?: (piece: Buffer) => void;
}

/** Runs ffmpeg, telling frames done; throws ToolError with its errors alone. */
export async function ffmpeg(args: readonly string[], { signal, frames, onLine, onExtra }: Listening): Promise<void> {
  let rest = '';
  await run(
    'ffmpeg',
    ['-v', `level+${onLine ? 'info' : 'error'}`, ...QUIET, '-progress', 'pipe:1', '-stats_period', '0.5', ...args],
    {
      signal,
      timeoutMs: TIMEOUT_MS,
      memoryBytes: MEMORY_BYTES,
      onOutput: (piece) => {
        const lines = (rest + piece.toString('latin1')).split('\n');
        rest = lines.pop() ?? '';
        for (const line of lines) {
          const done = /^frame=\s*(\d+)/.exec(line)?.[1];
          if (done) frames(Number(done));
        }
      },
      ...(onExtra ? { onExtra } : {}),
      // An information is no reason why something failed.
      errorLine: (line) => {
        const level = LEVEL.exec(line);
        const said = level ? line.slice(level[0].length) : line;
        if (level && ['panic', 'fatal', 'error'].includes(level[1] ?? '')) return said;
        onLine?.(said);
        return level ? null : onLine ? null : said;
      },
    },
  );
}
