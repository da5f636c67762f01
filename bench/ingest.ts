import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { plainSettings } from '@larder/core/ingest';
import { addStorage, JobRow, queueIngest } from '@larder/server';
import { wave, waveHeader } from '../packages/server/test/wave';
import { bareProbe, median, round, run, seconds, withLibrary, type BenchLibrary, type Figure } from './kit';

/** Enough to scan for some ten seconds; a hundred thousand would keep ffprobe busy for more than an hour. */
const FIRST = 400;
const LARGE = 100_000;
const FOLDERS = 100;
const CHANGED = 0.01;
const ROUNDS = 3;
const SAMPLES = 400;

/** Lays files out in folders and gives their paths from the root. */
function lay(root: string, count: number): string[] {
  return Array.from({ length: count }, (_unused, number) => {
    const folder = `f${number % FOLDERS}`;
    if (number < FOLDERS) mkdirSync(join(root, folder), { recursive: true });
    const path = `${folder}/take ${number}.wav`;
    writeFileSync(join(root, path), wave(number, SAMPLES));
    utimesSync(join(root, path), 1_700_000_000, 1_700_000_000);
    return path;
  });
}

/** Catalogues what was laid out without looking at it, as an earlier scan would have. */
async function catalogue({ db }: BenchLibrary, storageId: number, count: number): Promise<void> {
  const [bytes, path] = [wave(0, SAMPLES).length, `CONCAT('f', seq MOD ${FOLDERS}, '/take ', seq, '.wav')`];
  await db.query(
    `INSERT INTO asset (kind, name, added_ms, storage_id, path, path_hash, bytes, modified_ms, shelf_state, state_since_ms)
     SELECT 'audio', CONCAT('take ', seq, '.wav'), seq, ${storageId}, ${path}, SHA1(${path}), ${bytes}, 1700000000000, 'online', 1 FROM seq_0_to_${count - 1}`,
  );
}

const find = async (root: string): Promise<number> => {
  const began = performance.now();
  await run('find', [root, '-printf', '%p %s %T@\n'], { maxBuffer: 64e6 });
  return seconds(began);
};

async function firstScan(root: string): Promise<Figure> {
  const files = lay(root, FIRST).map((path) => join(root, path));
  await bareProbe(files);
  const rates: { ours: number; peer: number }[] = [];
  for (let round = 0; round < ROUNDS; round += 1) {
    const peer = FIRST / (await bareProbe(files));
    const scan = await withLibrary(async (bench) => bench.scan(await bench.add(root)));
    rates.push({ ours: scan.files / scan.seconds, peer });
  }
  const ratio = median(rates.map(({ ours, peer }) => ours / peer));
  const middle = rates.find(({ ours, peer }) => ours / peer === ratio) as { ours: number; peer: number };
  return {
    name: 'ingest.scan.first',
    value: round(middle.ours),
    unit: 'files/s',
    peer: `bare ffprobe over the same ${FIRST} files: ${round(middle.peer)} files/s`,
    ratio: round(ratio),
  };
}

/** Memory of the processes that run while a scan does, in megabytes. */
function megabytes(pids: readonly number[]): number {
  const kilobytes = pids.map((pid) => {
    try {
      return Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0);
    } catch {
      return 0;
    }
  });
  return kilobytes.reduce((sum, each) => sum + each, 0) / 1024;
}

/** The larder's own worker processes below this one. */
const workers = (): number[] =>
  readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .map(Number)
    .filter((pid) => {
      try {
        const parent = Number(/PPid:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1]);
        return parent === process.pid && readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('worker.mjs');
      } catch {
        return false;
      }
    });

async function rescans(root: string, print: (figure: Figure) => void): Promise<void> {
  const paths = lay(root, LARGE);
  await withLibrary(async (bench) => {
    const storageId = await bench.add(root);
    await catalogue(bench, storageId, LARGE);
    await find(root);
    await bench.scan(storageId);
    const pids = workers();
    const start = megabytes(pids);
    let peak = start;
    const watch = setInterval(() => (peak = Math.max(peak, megabytes(pids))), 50);
    const pairs: { ours: number; peer: number }[] = [];
    for (let round = 0; round < ROUNDS; round += 1)
      pairs.push({ peer: await find(root), ours: (await bench.scan(storageId)).seconds });
    clearInterval(watch);
    const ratio = median(pairs.map(({ ours, peer }) => ours / peer));
    const middle = pairs.find(({ ours, peer }) => ours / peer === ratio) as { ours: number; peer: number };
    print({
      name: 'ingest.rescan.unchanged',
      value: round(middle.ours),
      unit: 's',
      peer: `find -printf over the same ${LARGE} files: ${round(middle.peer)} s`,
      ratio: round(ratio),
    });
    print({
      name: 'ingest.memory',
      value: round(peak - start),
      unit: 'MB',
      peer: `the worker before: ${round(start)} MB`,
      ratio: round(peak / start),
    });

    const touched = paths.filter((_path, index) => index % (1 / CHANGED) === 0).map((path) => join(root, path));
    touched.forEach((path, index) => writeFileSync(path, wave(LARGE + index, SAMPLES)));
    const peer = (await find(root)) + (await bareProbe(touched));
    const { seconds: ours } = await bench.scan(storageId);
    print({
      name: 'ingest.rescan.changed',
      value: round(ours),
      unit: 's',
      peer: `find -printf, and bare ffprobe over the ${touched.length} that changed: ${round(peer)} s`,
      ratio: round(ours / peer),
    });
  });
}

const CLIP_SECONDS = 60;

/** A clip as cameras make them, with two channels of sound. */
async function clipIn(folder: string): Promise<string> {
  mkdirSync(folder, { recursive: true });
  const path = join(folder, 'A001C001.mov');
  const picture = `testsrc2=s=1920x1080:r=25:d=${CLIP_SECONDS}`;
  const sound = `aevalsrc=0.2*sin(2*PI*440*t)|0.1*sin(2*PI*660*t):s=48000:d=${CLIP_SECONDS}`;
  await run('ffmpeg', [
    ...`-v error -f lavfi -i ${picture} -f lavfi -i ${sound}`.split(' '),
    ...'-c:v libx264 -preset ultrafast -crf 18 -pix_fmt yuv420p -c:a pcm_s16le -timecode 10:00:00:00'.split(' '),
    path,
  ]);
  return path;
}

/** What the job itself says of how long it took, without waiting in the queue. */
async function jobSeconds(kind: 'renditions' | 'mezzanine' | 'ingest'): Promise<number> {
  for (;;) {
    const job = await JobRow.findOne({ where: { kind }, order: [['id', 'DESC']] });
    if (job?.state === 'done') return ((job.endedMs ?? 0) - (job.startedMs ?? 0)) / 1000;
    if (job?.state === 'failed') throw new Error(`${kind}: ${job.message ?? ''}`);
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}

const timed = async (tool: string, args: readonly string[]): Promise<number> => {
  const began = performance.now();
  await run(tool, [...args], { maxBuffer: 64e6 });
  return seconds(began);
};

const middleOf = (pairs: readonly { ours: number; peer: number }[]) => {
  const ratio = median(pairs.map(({ ours, peer }) => ours / peer));
  return { ratio, ...(pairs.find(({ ours, peer }) => ours / peer === ratio) as { ours: number; peer: number }) };
};

/** One decode with proxy, poster, filmstrip, peaks and loudness, and a mezzanine, each beside ffmpeg alone doing the same. */
async function makings(root: string, print: (figure: Figure) => void): Promise<void> {
  const path = await clipIn(root);
  const out = mkdtempSync(join(tmpdir(), 'larder-bench-peer-'));
  const frames = CLIP_SECONDS * 25;
  const graph = [
    '[0:v:0]split=3[v1][v2][v3]',
    "[v1]scale='trunc(min(960,iw*sar)/2)*2':-2,setsar=1[proxy]",
    `[v2]select='eq(n,${Math.floor(frames / 3)})',scale=480:-2[poster]`,
    `[v3]select='not(mod(n,${Math.ceil(frames / 20)}))',scale=288:-2,tile=20x1[strip]`,
    '[0:a:0]asplit=3[a1][a2][a3]',
    '[a1]anull[heard]',
    '[a2]ebur128=peak=true:framelog=verbose,anullsink',
    '[a3]anull[drawn]',
  ].join(';');
  const bare = [
    ...['-v', 'error', '-nostdin', '-y', '-i', path, '-filter_complex', graph, '-map', '[proxy]'],
    ...'-c:v libx264 -preset veryfast -crf 23 -pix_fmt yuv420p -bf 0 -g 13 -map [heard] -c:a aac -b:a 160k'.split(' '),
    ...['-movflags', '+faststart', join(out, 'proxy.mp4')],
    ...['-map', '[poster]', '-frames:v', '1', join(out, 'poster.jpg')],
    ...['-map', '[strip]', '-frames:v', '1', join(out, 'strip.jpg')],
    ...'-map [drawn] -ac 1 -ar 8000 -f s16le'.split(' '),
    join(out, 'peaks.raw'),
  ];
  const mezzanine = [
    ...['-v', 'error', '-nostdin', '-y', '-i', path],
    ...'-map 0:v:0 -c:v dnxhd -profile:v dnxhr_hq -pix_fmt yuv422p -map 0:a -c:a pcm_s24le'.split(' '),
    join(out, 'mezzanine.mov'),
  ];
  const made: { ours: number; peer: number }[] = [];
  const edit: { ours: number; peer: number }[] = [];
  try {
    for (let round = 0; round < ROUNDS; round += 1)
      await withLibrary(async (bench) => {
        const storageId = await bench.add(root);
        const peer = await timed('ffmpeg', bare);
        const settings = { ...plainSettings(), mezzanine: 'vc3' as const };
        const asked = { paths: ['A001C001.mov'], folders: [], twins: [], settings };
        await queueIngest(storageId, null, asked);
        made.push({ peer, ours: await jobSeconds('renditions') });
        const ours = await jobSeconds('mezzanine');
        edit.push({ ours, peer: await timed('ffmpeg', mezzanine) });
      });
  } finally {
    rmSync(out, { recursive: true, force: true });
  }
  for (const [name, pairs, what] of [
    ['ingest.renditions', made, 'proxy, poster, filmstrip, peaks and loudness in one run'],
    ['ingest.mezzanine', edit, 'VC-3 and PCM'],
  ] as const) {
    const { ours, peer, ratio } = middleOf(pairs);
    print({ name, value: round(ours), unit: 's', peer: `bare ffmpeg, ${what}: ${round(peer)} s`, ratio: round(ratio) });
  }
}

const COPY_BYTES = 2_000_000_000;
/** Even, so that either is first as often as the other. */
const COPY_ROUNDS = 4;

/** A large file copied with verification, beside cp and a checksum of either side, the copy's read from the disk as ours is. */
async function copies(root: string): Promise<Figure> {
  const [from, to, aside] = ['card', 'store', 'aside'].map((name) => join(root, name)) as [string, string, string];
  for (const folder of [from, to, aside]) mkdirSync(folder, { recursive: true });
  const path = join(from, 'A001.wav');
  writeFileSync(path, waveHeader(COPY_BYTES));
  // Noise: a file system that packs what it holds gains nothing by it.
  await run('sh', ['-c', `head -c ${COPY_BYTES} /dev/urandom >> '${path}'`]);
  const script =
    'set -e; cp "$1" "$2"; dd of="$2" oflag=nocache conv=notrunc,fdatasync count=0 status=none; xxhsum -q -H64 "$1"; xxhsum -q -H64 "$2"';
  const pairs: { ours: number; peer: number }[] = [];
  for (let n = 0; n < COPY_ROUNDS; n += 1)
    await withLibrary(async ({ db }) => {
      const { id } = await addStorage(db, null, { name: 'card', rootPath: from });
      const target = await addStorage(db, null, { name: 'store', rootPath: to, managed: true });
      const destination = { storageId: target.id, folder: `round ${n}` };
      const settings = { ...plainSettings(), way: 'copy' as const, destination };
      // Neither has to wait for what the other has left to be written.
      const ours = async () => {
        await run('sync', []);
        await queueIngest(id, null, { paths: ['A001.wav'], folders: [], twins: [], settings });
        return jobSeconds('ingest');
      };
      const peer = async () => {
        await run('sync', []);
        return timed('sh', ['-c', script, 'sh', path, join(aside, `${n}.wav`)]);
      };
      // In turn: whichever comes second finds a disk that has just been worked hard.
      if (n % 2 === 0) pairs.push({ peer: await peer(), ours: await ours() });
      else pairs.push({ ours: await ours(), peer: await peer() });
      for (const folder of [to, aside]) rmSync(folder, { recursive: true, force: true });
      for (const folder of [to, aside]) mkdirSync(folder);
    });
  const mean = (side: 'ours' | 'peer') => pairs.reduce((sum, pair) => sum + pair[side], 0) / pairs.length;
  const [ours, peer] = [mean('ours'), mean('peer')];
  return {
    name: 'ingest.copy',
    value: round(ours),
    unit: 's',
    peer: `cp and xxhsum of both sides, ${COPY_BYTES / 1e9} GB: ${round(peer)} s`,
    ratio: round(ours / peer),
  };
}

/** A part of the bench on a shelf of its own. */
const onShelf =
  (measure: (root: string, print: (figure: Figure) => void) => Promise<void>) =>
  async (print: (figure: Figure) => void): Promise<void> => {
    const root = mkdtempSync(join(tmpdir(), 'larder-bench-shelf-'));
    try {
      await measure(root, print);
    } finally {
      rmSync(root, { recursive: true, force: true, maxRetries: 5 });
    }
  };

/** What comes in, and how fast: scans of small files, new, unchanged and in part changed; what is made of a clip; a copy. */
export const ingest = {
  scan: onShelf(async (root, print) => print(await firstScan(root))),
  rescan: onShelf(rescans),
  makings: onShelf(makings),
  copy: onShelf(async (root, print) => print(await copies(root))),
};
