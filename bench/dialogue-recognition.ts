import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { speechPieces } from '@larder/core/audio';
import { POCKETSPHINX } from '@larder/server';
import type { Asset } from '@larder/contract';
import type { PieceFile } from '../packages/server/src/media/recogniser';
import { cutSpeech, soundFrames } from '../packages/server/src/media/speech';
import { wordErrors, wordsOf, type Sentence } from './dialogue-speech';
import { round, run, seconds, type Figure } from './kit';

/** Recorded speech with what is said in it, as Debian's `pocketsphinx-testdata` carries it. */
const RECORDED = '/usr/share/pocketsphinx/test/data/librivox';
const MODEL = '/usr/share/pocketsphinx/model/en-us';
/** So many times over each other, the utterances last some minutes: the model is read in less than a hundredth of that. */
const TIMES = 8;
const GAP_S = 0.8;
/** A core each. */
const WORKERS = 2;
const never = new AbortController().signal;

const names = (): string[] => readFileSync(join(RECORDED, 'fileids'), 'utf8').trim().split('\n');

function said(): ReadonlyMap<string, string> {
  const lines = readFileSync(join(RECORDED, 'transcription'), 'utf8').trim().split('\n');
  return new Map(
    lines.map((line) => {
      const [, text = '', name = ''] = /^<s> (.*) <\/s> \((.*)\)$/.exec(line) ?? [];
      return [name, wordsOf(text).join(' ')] as const;
    }),
  );
}

/** Seconds of CPU that children of this process took, which have ended (proc(5), `cutime` and `cstime`, a hundred a second). */
function childSeconds(): number {
  const after = readFileSync('/proc/self/stat', 'utf8').split(') ')[1]?.split(' ') ?? [];
  return (Number(after[13]) + Number(after[14])) / 100;
}
const cpuSeconds = (): number => {
  const { system, user } = process.cpuUsage();
  return (user + system) / 1e6 + childSeconds();
};

interface Pieces {
  readonly folder: string;
  readonly files: readonly PieceFile[];
}

/** As a job does: where somebody speaks, cut out, listened to for words with their lattice and for phones, read into words. */
async function whole(path: string, asset: Asset, folder: string): Promise<Pieces> {
  const pieces = speechPieces(await soundFrames(path, asset, never));
  const files = pieces.map((piece, at) => ({ ...piece, name: `piece${at}` }));
  const cuts = files.map((file) => ({ ...file, channel: null, to: join(folder, `${file.name}.wav`) }));
  await cutSpeech(path, asset, cuts, never);
  await POCKETSPHINX.hear(files, [], folder, never);
  return { folder, files };
}

/** The recogniser by itself on the same pieces, with the same knobs, for words and for phones, and nothing written but what it heard. */
async function bare({ files, folder }: Pieces): Promise<void> {
  writeFileSync(join(folder, 'bare'), files.map(({ name }) => `${name}\n`).join(''));
  const listen = (how: readonly string[]) =>
    run('pocketsphinx_batch', [
      ...['-hmm', join(MODEL, 'en-us'), '-ctl', join(folder, 'bare'), '-cepdir', folder, '-logfn', '/dev/null'],
      ...'-cepext .wav -adcin yes -adchdr 44 -remove_noise no'.split(' '),
      ...[...how, '-hyp', join(folder, 'bare.hyp')],
    ]);
  await listen([
    ...['-lm', join(MODEL, 'en-us.lm.bin'), '-dict', join(MODEL, 'cmudict-en-us.dict')],
    ...'-lw 5 -fwdflatlw 6.5 -bestpathlw 7.5'.split(' '),
  ]);
  const phones = ['-allphone', join(MODEL, 'en-us-phone.lm.bin'), ...'-allphone_ci yes'.split(' ')];
  await listen([...phones, ...'-lw 1 -beam 1e-20 -pbeam 1e-20'.split(' ')]);
}

/** How well recorded speech is recognised, and what it costs. */
export async function recognition(print: (figure: Figure) => void): Promise<void> {
  const home = mkdtempSync(join(tmpdir(), 'larder-bench-heard-'));
  try {
    const texts = said();
    const each = names().map((name) => ({ name, bytes: readFileSync(join(RECORDED, `${name}.wav`)) }));
    const pieces = each.map(({ bytes }, at) => ({ name: `r${at}`, startMs: 0, endMs: (bytes.length - 44) / 32 }));
    each.forEach(({ bytes }, at) => writeFileSync(join(home, `r${at}.wav`), bytes));
    const heard = await POCKETSPHINX.hear(pieces, [], home, never);
    const sentences = each.map(({ name }, at): Sentence => ({
      text: texts.get(name) ?? '',
      voice: name,
      ms: pieces[at]?.endMs ?? 0,
      heard: heard[at] ?? [],
    }));
    const { errors, words } = wordErrors(sentences);
    print({ name: 'dialogue.wer.recorded', value: round(errors / words), unit: 'share', peer: null, ratio: null });

    const inputs = each.flatMap(({ name }) => ['-i', join(RECORDED, `${name}.wav`)]);
    const one = join(home, 'one.wav');
    const joined = `${each.map((_each, at) => `[${at}:a]apad=pad_dur=${GAP_S}[a${at}]`).join(';')};${each.map((_each, at) => `[a${at}]`).join('')}concat=n=${each.length}:v=0:a=1`;
    await run('ffmpeg', ['-v', 'error', ...inputs, '-filter_complex', joined, one]);
    const all = join(home, 'all.wav');
    await run('ffmpeg', ['-v', 'error', '-stream_loop', String(TIMES - 1), '-i', one, '-c', 'copy', all]);
    const length = (readFileSync(all).length - 44) / 32_000;
    const sound = { codec: 'pcm_s16le', channels: 1, layout: 'mono', sampleRate: 16_000 };
    const asset = { sound, durationMs: length * 1000 } as Asset;
    const folders = Array.from({ length: WORKERS }, (_unused, at) => join(home, `worker${at}`));
    folders.forEach((folder) => mkdirSync(folder));
    const [began, cpu] = [performance.now(), cpuSeconds()];
    const done = await Promise.all(folders.map((folder) => whole(all, asset, folder)));
    const [took, cpuTook] = [seconds(began), cpuSeconds() - cpu];
    const bareBegan = performance.now();
    await Promise.all(done.map(bare));
    const bareTook = seconds(bareBegan);
    const told = `pocketsphinx_batch on the same pieces, ${round(bareTook)} s for ${round(length * WORKERS)} s of sound`;
    print({
      ...{
        name: 'dialogue.cpuPerSecond',
        value: round(cpuTook / (length * WORKERS)),
        unit: 's of CPU a second of sound',
      },
      ...{ peer: null, ratio: null },
    });
    print({
      name: 'dialogue.vsBareRecogniser',
      value: round(bareTook / took),
      unit: 'x',
      peer: told,
      ratio: round(bareTook / took),
    });
  } finally {
    rmSync(home, { recursive: true, force: true });
  }
}
