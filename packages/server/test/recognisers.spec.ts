import { chmodSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { execFileSync } from 'node:child_process';
import { writeCtm, type SpokenWord } from '@larder/core/dialogue';
import { readRecogniserChoice, RemoteRecogniserStandIn } from '@larder/server';
import type { PieceFile, Recogniser } from '../src/media/recogniser';
import { recogniserOf } from '../src/media/recogniser-choice';
import { remoteRecogniser } from '../src/media/recogniser-remote';
import { allJobsEnded, scanned, TestLibrary } from './kit';
import { wave } from './wave';

/** Hears nothing but how long a sound is, in whole tenths of a second. */
const LISTENER: Recogniser = {
  ...{ madeBy: 'A listener', language: 'und' },
  knows: () => Promise.resolve(new Set()),
  hear: (pieces) =>
    Promise.resolve(
      pieces.map(({ endMs, startMs }) => [
        { text: `tenths${Math.round((endMs - startMs) / 100)}`, startMs, endMs: startMs + 500, certainty: 0.75 },
      ]),
    ),
};
const PACE = { firstWaitMs: 5, pollMs: 5 };

let folder: string;
let pieces: readonly PieceFile[];
const never = new AbortController().signal;

beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'larder-recognisers-'));
  pieces = [1, 2, 3, 4].map((tenths, at) => {
    const [name, startMs] = [`piece${at}`, at * 5000];
    const sound = ['-f', 'lavfi', '-i', `sine=duration=${tenths / 10}`, '-ac', '1', '-ar', '16000', '-bitexact'];
    execFileSync('ffmpeg', ['-v', 'error', ...sound, join(folder, `${name}.wav`)]);
    return { name, startMs, endMs: startMs + tenths * 100 };
  });
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const said = (heard: readonly (readonly SpokenWord[])[]) =>
  heard.map((words) => words.map(({ certainty, endMs, startMs, text }) => [text, startMs, endMs, certainty]));
/** As far as each piece goes. */
const EXPECTED = [
  [['tenths1', 0, 100, 0.75]],
  [['tenths2', 5000, 5200, 0.75]],
  [['tenths3', 10_000, 10_300, 0.75]],
  [['tenths4', 15_000, 15_400, 0.75]],
];

describe('the choice of a recogniser', () => {
  it.each([
    ['{"name": "X", "url": "http://10.0.0.5:4390"}', null],
    ['{"name": "X", "program": "/opt/x", "arguments": ["-i", "{sound}"], "language": "en-GB"}', null],
    ['{', 'It is no JSON'],
    ['[]', 'either “program”, a path, or “url”'],
    ['null', 'either “program”, a path, or “url”'],
    ['{"name": "X", "url": "http://a", "program": "b"}', 'not both'],
    ['{"url": "http://a"}', '“name” is missing'],
    ['{"name": "X", "url": "ftp://a"}', '“url” is no address'],
    ['{"name": "X", "program": "x", "language": "English!"}', '“language” is no language'],
    ['{"name": "X", "program": "x", "arguments": "{sound}"}', 'arguments'],
    ['{"name": "X", "program": "x", "shell": true}', 'something else in it: shell'],
  ])('%s', (text, wrong) => {
    if (wrong === null) expect(recogniserOf(readRecogniserChoice(text)).madeBy).toBe('X');
    else expect(() => readRecogniserChoice(text)).toThrow(wrong);
  });
});

describe('a program as a recogniser', () => {
  const program = (script: string) => {
    const path = join(folder, 'program.sh');
    writeFileSync(path, `#!/bin/sh\n${script}\n`);
    chmodSync(path, 0o755);
    const choice = { name: 'A program', program: path, arguments: ['{sound}', '{words}', '$(touch x)'] };
    return recogniserOf(readRecogniserChoice(JSON.stringify(choice)));
  };

  it('is given each piece and the words of the production, and prints words with their times', async () => {
    const script = [
      'echo ";; a remark"',
      'echo "$1 1 0.25 0.5 $(basename $1) 0.9"',
      'cat $2 | while read word rest; do echo "x 1 1.00 0.10 $word"; done',
      // What stands among its arguments is never a command.
      'echo "x 1 1 0 $3" | tr " " _ | sed "s/^x_1_1_0_/x 1 1 0 /"',
      'echo "x 1 1.1 0.1 beyond"',
    ].join('\n');
    const custom = [{ id: 1, text: 'Ottermouth', says: ['AA T ER M AW TH', 'OW T ER M AH TH'] }];
    const long = pieces.slice(0, 2).map((piece) => ({ ...piece, endMs: piece.startMs + 1050 }));
    const [first, second] = await program(script).hear(long, custom, folder, never);
    expect(said([first ?? []])).toEqual([
      [
        ['piece0.wav', 250, 750, 0.9],
        // No longer than the piece, and what would lie beyond it is left out.
        ['ottermouth', 1000, 1050, 0.5],
        ['ottermouth(2)', 1000, 1050, 0.5],
        ['$(touch_x)', 1000, 1000, 0.5],
      ],
    ]);
    expect(second?.[0]).toMatchObject({ text: 'piece1.wav', startMs: 5250 });
  });

  it('that prints something else, fails or hangs is told of', async () => {
    const hear = (script: string, signal = never) => program(script).hear(pieces.slice(0, 1), [], folder, signal);
    await expect(hear('echo "hello there"')).rejects.toThrow('printed something else than CTM. Line 1');
    await expect(hear('echo "no model" >&2; exit 3')).rejects.toThrow('no model');
    const stop = new AbortController();
    setTimeout(() => stop.abort(), 50);
    await expect(hear('exec sleep 60', stop.signal)).rejects.toMatchObject({ reason: 'cancelled' });
    const gone = recogniserOf(readRecogniserChoice('{"name": "X", "program": "/nowhere/x"}'));
    await expect(gone.hear(pieces.slice(0, 1), [], folder, never)).rejects.toMatchObject({ reason: 'not-found' });
  });
});

describe('a recogniser that is asked over the network', () => {
  const standIn = (options: { readonly busyEvery?: number; readonly failEvery?: number; readonly delayMs?: number }) =>
    RemoteRecogniserStandIn.start({
      ...{ by: LISTENER, host: '127.0.0.1', port: 0, delayMs: 10, busyEvery: 0, failEvery: 0 },
      ...options,
    });
  const asked = (url: string) => remoteRecogniser({ name: 'Far', language: 'en-US', url }, PACE);

  it('hears all pieces, each at its place, though it has a queue, is too busy now and then, and loses some', async () => {
    for (const trouble of [{}, { busyEvery: 3 }, { failEvery: 2 }, { busyEvery: 2, failEvery: 3 }]) {
      const server = await standIn(trouble);
      try {
        expect(said(await asked(server.url).hear(pieces, [], folder, never))).toEqual(EXPECTED);
      } finally {
        await server.stop();
      }
    }
  });

  it('gives up plainly where it loses all, answers nonsense, or is not there', async () => {
    const server = await standIn({ failEvery: 1 });
    await expect(asked(server.url).hear(pieces.slice(0, 1), [], folder, never)).rejects.toThrow(
      'gave up: It was lost on the way',
    );
    const { url } = server;
    await server.stop();
    await expect(asked(url).hear(pieces.slice(0, 1), [], folder, never)).rejects.toThrow(
      'does not do its work (ECONNREFUSED). What was heard so far is kept',
    );
    const answers = async (status: number, body: string): Promise<[Server, string]> => {
      const odd = createServer((_request, response) => void response.writeHead(status).end(body));
      await new Promise<void>((resolve) => odd.listen(0, '127.0.0.1', resolve));
      return [odd, `http://127.0.0.1:${(odd.address() as AddressInfo).port}`];
    };
    for (const [status, body, wrong] of [
      [200, '<html>', 'does not do its work'],
      [200, '{"id": "../etc"}', 'id must match'],
      [404, '{}', 'it answers 404'],
      [200, `{"id": "${'x'.repeat(9_000_000)}"}`, 'its answer is too long'],
    ] as const) {
      const [odd, at] = await answers(status, body);
      await expect(asked(at).hear(pieces.slice(0, 1), [], folder, never)).rejects.toThrow(wrong);
      odd.close();
    }
  });

  it('is given up at once when the job is', async () => {
    const server = await standIn({ delayMs: 60_000 });
    const stop = new AbortController();
    const heard = asked(server.url).hear(pieces, [], folder, stop.signal);
    setTimeout(() => stop.abort(), 100);
    await expect(heard).rejects.toThrow();
    await server.stop();
  });

  it('is what a library listens with, once it is chosen', async () => {
    const server = await standIn({ busyEvery: 4, failEvery: 3 });
    const choice = { name: 'The far one', language: 'en-GB', url: server.url };
    const library = await TestLibrary.start(1, undefined, { 'recogniser.json': JSON.stringify(choice) });
    try {
      const [manager, editor] = [await library.as('manager'), await library.as('editor')];
      const shelf = library.shelf('sound');
      execFileSync('flite', ['-voice', 'rms', '-t', 'The water is high today', '-o', join(shelf, 'spoken.wav')]);
      writeFileSync(join(shelf, 'silent.wav'), wave(1));
      await scanned(manager, 'Sound', shelf);
      await allJobsEnded(manager);
      const { assets } = await editor.call('search', {});
      await editor.call('recognise', { assetIds: assets.map(({ id }) => id) });
      await allJobsEnded(manager);
      const spoken = assets.find(({ name }) => name === 'spoken.wav');
      const { shown } = await editor.call('transcript', { source: null }, spoken?.id);
      expect(shown).toMatchObject({ madeBy: 'The far one', language: 'en-GB' });
      expect(shown?.words.map(({ text }) => text).join(' ')).toMatch(/^tenths\d+$/);
    } finally {
      await library.stop();
      await server.stop();
    }
  });

  it('is told of before anything starts, where its choice cannot be read', async () => {
    const start = TestLibrary.start(1, undefined, { 'recogniser.json': '{"name": "X"}' });
    await expect(start).rejects.toThrow('chooses no recogniser: It needs either');
  });
});

describe('what recognisers print', () => {
  it('is written so that NIST’s sclite reads it as the same words', () => {
    const words: SpokenWord[] = ['the', 'water', 'is', 'high'].map((text, at) => ({
      ...{ text, startMs: at * 400, endMs: at * 400 + 300, certainty: 0.5 },
    }));
    writeFileSync(join(folder, 'heard.ctm'), writeCtm('talk', words, 0));
    writeFileSync(join(folder, 'said.stm'), 'talk 1 wren 0.0 2.0 the water was high\n');
    const files = ['-r', join(folder, 'said.stm'), 'stm', '-h', join(folder, 'heard.ctm'), 'ctm'];
    const report = execFileSync('sctk', ['sclite', ...files, '-o', 'rsum', 'stdout'], { encoding: 'utf8' });
    const [, count, correct, wrong] = /Sum\s*\|\s*\d+\s+(\d+)\s*\|\s*(\d+)\s+(\d+)/.exec(report) ?? [];
    expect([count, correct, wrong]).toEqual(['4', '3', '1']);
  });
});
