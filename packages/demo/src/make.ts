import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdir, rename, rm, truncate, stat, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { insertChunks, writeBext, writeIxml } from '@larder/core/interchange/bwf';
import { countingById, framesToSeconds, rescaleFrames } from '@larder/core/timecode';
import { Film } from './draw/film';
import { seedOf } from './random';
import type { Clip, DemoScript, PictureSequence, Sound, Still } from './script';
import { bell, fire, hammer, music, rain, SAMPLE_RATE, water, wave, type Samples } from './sound/synth';
import { mouthOf, speak } from './sound/speech';

/** One file, or one image sequence, of the demo. */
export type Piece =
  | { readonly type: 'clip'; readonly piece: Clip }
  | { readonly type: 'still'; readonly piece: Still }
  | { readonly type: 'sequence'; readonly piece: PictureSequence }
  | { readonly type: 'sound'; readonly piece: Sound };

/** Everything the script asks for, the longest work first so that the makers end together. */
export function piecesOf(script: DemoScript): Piece[] {
  const pieces: Piece[] = [
    ...script.clips.map((piece) => ({ type: 'clip' as const, piece })),
    ...script.sequences.map((piece) => ({ type: 'sequence' as const, piece })),
    ...script.sound.map((piece) => ({ type: 'sound' as const, piece })),
    ...script.stills.map((piece) => ({ type: 'still' as const, piece })),
  ];
  const weight = ({ type, piece }: Piece) =>
    type === 'clip' ? (piece.says ? 9 : (piece.seconds ?? 0)) * (piece.rate.startsWith('5') ? 2 : 1) : 0;
  return pieces.sort((a, b) => weight(b) - weight(a));
}

/** Makes one piece under the folder of its storage. A file is moved into place once it is whole. */
export async function makePiece(root: string, script: DemoScript, { type, piece }: Piece): Promise<void> {
  const storage = script.storages.find((each) => each.name === piece.storage);
  if (!storage) throw new Error(`the script has no storage called ${piece.storage}`);
  const folder = join(root, storage.folder, piece.folder);
  await mkdir(folder, { recursive: true });
  switch (type) {
    case 'clip':
      return makeClip(folder, script, piece);
    case 'still':
      return makeStill(folder, script, piece);
    case 'sequence':
      return makeSequence(folder, script, piece);
    case 'sound':
      return makeSound(folder, script, piece);
    default:
      return piece satisfies never;
  }
}

const personOf = (script: DemoScript, who: string | undefined) =>
  who === undefined ? null : (script.cast[who] ?? null);
const still = () => 0;

/** Sound for a clip that nobody speaks in: what the place sounds like. */
function ambience({ place, light, file }: Clip, seconds: number, microphone: number): Samples {
  const seed = seedOf(file) + microphone;
  if (light === 'rain') return rain(seconds, seed);
  if (place === 'foundry') return fire(seconds, seed);
  return water(seconds, seed).map((value) => value * 0.6);
}

async function makeClip(folder: string, script: DemoScript, clip: Clip): Promise<void> {
  const path = join(folder, clip.file);
  const counting = countingById(clip.rate);
  if (!counting) throw new Error(`${clip.file}: no rate ${clip.rate}`);
  const voice =
    clip.says && clip.who ? await speak(clip.says, script.cast[clip.who]?.voice ?? 'slt', `${path}.voice.wav`) : null;
  const wanted = voice ? voice.length / SAMPLE_RATE : (clip.seconds ?? 4);
  const frames = Math.max(1, rescaleFrames(Math.round(wanted * 1000), { num: 1000, den: 1 }, counting.rate));
  const exact = framesToSeconds(frames, counting.rate);
  const seconds = exact.num / exact.den;
  const film = new Film({
    ...clip,
    name: clip.file,
    seconds,
    person: personOf(script, clip.who),
    mouthAt: voice ? mouthOf(voice) : still,
  });
  // The first microphone is the nearest.
  const sound = await Promise.all(
    Array.from({ length: clip.microphones ?? 1 }, async (_unused, microphone) => {
      const samples = (voice ?? ambience(clip, seconds, microphone)).map((value) => value / (1 + microphone));
      await writeFile(`${path}.sound${microphone}.wav`, wave([padded(samples, seconds)]));
      return `${path}.sound${microphone}.wav`;
    }),
  );
  const made = `${path}.making`;
  await encode(encodeArgs(clip, counting.rate, sound, made), frames, (frame) =>
    film.frame(frame, (frame * counting.rate.den) / counting.rate.num),
  );
  for (const each of sound) await rm(each);
  if (clip.damage === 'cut off') await truncate(made, Math.floor((await stat(made)).size * 0.6));
  await settle(made, path, clip.shotOn);
}

/** Exactly as long as the picture: sound that is too short is followed by silence. */
function padded(samples: Samples, seconds: number): Samples {
  const out = new Float32Array(Math.round(seconds * SAMPLE_RATE));
  out.set(samples.subarray(0, out.length));
  return out;
}

function encodeArgs(clip: Clip, rate: { num: number; den: number }, sound: readonly string[], to: string): string[] {
  const [width, height] = clip.size;
  const { timecode, reel, scene, take, at } = clip.carries;
  const metadata = Object.entries({ timecode, creation_time: clip.shotOn, location: at, scene, take }).flatMap(
    ([key, value]) =>
      value === undefined ? [] : key === 'timecode' ? ['-timecode', value] : ['-metadata', `${key}=${value}`],
  );
  const reelTag = reel === undefined ? [] : ['-metadata:s:v:0', `reel_name=${reel}`];
  const picture =
    clip.format === 'vc3-mov'
      ? '-c:v dnxhd -profile:v dnxhr_lb -pix_fmt yuv422p'
      : '-c:v libx264 -preset ultrafast -crf 22 -pix_fmt yuv420p -g 25';
  const colour = '-color_primaries bt709 -color_trc bt709 -colorspace bt709 -color_range tv';
  const container = `-f ${clip.file.endsWith('.mov') ? 'mov' : 'mp4'} -movflags +use_metadata_tags`;
  // One thread, fixed metadata: the same script gives the same bytes on every machine.
  return [
    ...'-v error -y -f rawvideo -pix_fmt rgba -s'.split(' '),
    `${width}x${height}`,
    '-r',
    `${rate.num}/${rate.den}`,
    '-i',
    'pipe:0',
    ...sound.flatMap((each) => ['-i', each]),
    ...`-map 0:v ${sound.map((_each, index) => `-map ${index + 1}:a`).join(' ')} ${picture} ${clip.format === 'h264-bare' ? '' : colour} -c:a ${clip.file.endsWith('.mov') ? 'pcm_s16le' : 'aac -b:a 128k'} -threads 1 -fflags +bitexact -flags:v +bitexact -flags:a +bitexact`
      .split(' ')
      .filter(Boolean),
    ...metadata,
    ...reelTag,
    ...container.split(' '),
    to,
  ];
}

async function encode(args: readonly string[], frames: number, pixels: (frame: number) => Buffer): Promise<void> {
  const child = spawn('ffmpeg', args, { stdio: ['pipe', 'ignore', 'pipe'] });
  let said = '';
  child.stderr.on('data', (text: Buffer) => (said = (said + text.toString()).slice(-2000)));
  // If ffmpeg ends early, writing fails; how it ended tells why.
  child.stdin.on('error', () => undefined);
  const ended = new Promise<number | null>((resolve, reject) => child.once('error', reject).once('close', resolve));
  for (let frame = 0; frame < frames && child.exitCode === null; frame += 1)
    if (!child.stdin.write(Buffer.from(pixels(frame)))) await Promise.race([once(child.stdin, 'drain'), ended]);
  child.stdin.end();
  if ((await ended) !== 0) throw new Error(`ffmpeg could not encode: ${said}`);
}

async function settle(made: string, path: string, shotOn: string | undefined): Promise<void> {
  const when = new Date(shotOn ?? '2026-06-10T10:00:00Z');
  await utimes(made, when, when);
  await rename(made, path);
}

async function makeStill(folder: string, script: DemoScript, piece: Still): Promise<void> {
  const film = new Film({
    ...piece,
    name: piece.file,
    seconds: 1,
    person: personOf(script, piece.who),
    mouthAt: still,
  });
  const path = join(folder, piece.file);
  await writeFile(`${path}.making`, piece.file.endsWith('.png') ? film.png(0, 0.4) : film.jpeg(0.4));
  await settle(`${path}.making`, path, undefined);
}

async function makeSequence(folder: string, script: DemoScript, piece: PictureSequence): Promise<void> {
  const film = new Film({
    ...piece,
    name: piece.prefix,
    seconds: piece.frames / 25,
    person: personOf(script, piece.who),
    mouthAt: still,
  });
  for (let frame = 0; frame < piece.frames; frame += 1) {
    if (piece.missing?.includes(piece.first + frame)) continue;
    const path = join(folder, `${piece.prefix}${String(piece.first + frame).padStart(piece.padding, '0')}.png`);
    await writeFile(`${path}.making`, film.png(frame, frame / 25));
    await settle(`${path}.making`, path, undefined);
  }
}

const STRIKE_HERTZ = 220;

async function samplesOf(script: DemoScript, piece: Sound, path: string): Promise<Samples[]> {
  const seconds = piece.seconds ?? 5;
  const seed = seedOf(piece.file);
  const each = (make: (channel: number) => Samples) =>
    Array.from({ length: piece.channels }, (_unused, channel) => make(channel));
  switch (piece.hear) {
    case 'voice': {
      // The first track is the boom; the others hear the same from further away.
      const voice = await speak(piece.says ?? '', script.cast[piece.who ?? '']?.voice ?? 'slt', `${path}.voice.wav`);
      return each((channel) => voice.map((value) => value / (1 + channel)));
    }
    case 'water':
      return each((channel) => water(seconds, seed + channel));
    case 'rain':
      return each((channel) => rain(seconds, seed + channel));
    case 'fire':
      return each((channel) => fire(seconds, seed + channel));
    case 'bell':
      return each((channel) => bell(seconds, STRIKE_HERTZ * (piece.pitch ?? 1) * (1 + channel * 0.002)));
    case 'hammer':
      return each((channel) => hammer(seconds, seed + channel));
    case 'music':
      return each((channel) => music(seconds, piece.tempo ?? 60, 1 + channel * 0.003));
    default:
      return piece.hear satisfies never;
  }
}

async function makeSound(folder: string, script: DemoScript, piece: Sound): Promise<void> {
  const path = join(folder, piece.file);
  const plain = wave(await samplesOf(script, piece, path));
  const bytes = piece.bwf ? insertChunks(plain, bwfChunks(script, piece, piece.bwf)) : plain;
  const made = `${path}.making`;
  if (path.endsWith('.wav')) await writeFile(made, bytes);
  else {
    await writeFile(`${path}.wav`, bytes);
    const codec = path.endsWith('.flac') ? '-c:a flac -f flac' : '-c:a aac -b:a 192k -f ipod';
    const child = spawn(
      'ffmpeg',
      [
        '-v',
        'error',
        '-y',
        '-i',
        `${path}.wav`,
        ...`${codec} -threads 1 -fflags +bitexact -flags:a +bitexact`.split(' '),
        made,
      ],
      { stdio: 'ignore' },
    );
    const [code] = (await once(child, 'close')) as [number];
    await rm(`${path}.wav`);
    if (code !== 0) throw new Error(`ffmpeg could not encode ${piece.file}`);
  }
  await settle(made, path, piece.bwf && `${piece.bwf.date}T${piece.bwf.time}Z`);
}

const TRACK_NAMES = ['Boom', 'Lav 1', 'Lav 2', 'Plant', 'Rear left', 'Rear right', 'Side left', 'Side right'];

function bwfChunks(script: DemoScript, piece: Sound, bwf: NonNullable<Sound['bwf']>) {
  const [hours, minutes, seconds] = bwf.time.split(':').map(Number) as [number, number, number];
  const bext = writeBext({
    description: `sSCENE=${bwf.scene}\r\nsTAKE=${bwf.take}\r\nsTAPE=${bwf.tape}`,
    originator: script.title,
    originatorReference: piece.file,
    originationDate: bwf.date,
    originationTime: bwf.time,
    timeReferenceSamples: (hours * 3600 + minutes * 60 + seconds) * SAMPLE_RATE,
    version: 1,
    codingHistory: `A=PCM,F=${SAMPLE_RATE},W=16,M=${piece.channels === 1 ? 'mono' : 'multi'}\r\n`,
  });
  const tracks = new Map(TRACK_NAMES.slice(0, piece.channels).map((name, index) => [index + 1, name]));
  const ixml = writeIxml({
    project: script.title,
    scene: bwf.scene,
    take: bwf.take,
    tape: bwf.tape,
    note: bwf.note ?? null,
    circled: bwf.circled ?? false,
    tracks,
  });
  return [
    { id: 'bext', content: bext },
    { id: 'iXML', content: new TextEncoder().encode(ixml) },
  ];
}

/** Where a finished piece lies, for telling whether it is there already. */
export const pathOf = (root: string, script: DemoScript, { type, piece }: Piece): string => {
  const storage = script.storages.find((each) => each.name === piece.storage);
  const file =
    type === 'sequence'
      ? `${piece.prefix}${String(piece.first + piece.frames - 1).padStart(piece.padding, '0')}.png`
      : piece.file;
  return join(root, storage?.folder ?? '', piece.folder, file);
};
