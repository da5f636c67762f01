import { plainSettings, type IngestSettings } from '@larder/core/ingest';
import { itemsOf, type ShelfItem } from '@larder/core/shelf';
import { corrected } from '../src/jobs/corrections';
import { nameAt, nameFor } from '../src/jobs/ingest-names';
import { mediaFacts, sequenceFacts, type MediaFacts, type ProbeOutput, type ProbeStream } from '../src/media/facts';
import { sheetsOf, wordChroma, type PixelFormat } from '../src/media/sheet';
import { sequenceName } from '../src/media/ffmpeg';
import { rational } from '@larder/core/timecode';

const video = (changes: Partial<ProbeStream> = {}): ProbeStream => ({
  codec_type: 'video',
  codec_name: 'h264',
  codec_long_name: 'H.264',
  profile: 'High',
  width: 1920,
  height: 1080,
  pix_fmt: 'yuv420p',
  r_frame_rate: '30000/1001',
  avg_frame_rate: '30000/1001',
  nb_frames: '300',
  field_order: 'tt',
  sample_aspect_ratio: '4:3',
  color_primaries: 'bt709',
  bit_rate: '50000000',
  tags: { timecode: '01:00:00;00', reel_name: 'A001' },
  ...changes,
});
const probe = (...streams: ProbeStream[]): ProbeOutput => ({
  streams,
  format: {
    format_name: 'mov',
    format_long_name: 'A container',
    duration: '10.01',
    bit_rate: '900000',
    tags: { 'org.example.make': 'Ottermouth Optical', model: 'Pinhole 3' },
  },
});
const format: PixelFormat = {
  name: 'yuv420p',
  nb_components: 3,
  log2_chroma_w: 1,
  log2_chroma_h: 1,
  flags: { alpha: 0, rgb: 0 },
  components: [{ bit_depth: 8 }],
};
const NOTHING = { bext: null, ixml: null, xmp: [], exif: [] };
const said = (output: ProbeOutput, pixelFormat: PixelFormat | undefined = format) =>
  Object.fromEntries(
    sheetsOf(output, mediaFacts(output, 'A001C001.mov'), pixelFormat, NOTHING).map(({ title, rows }) => [
      title,
      Object.fromEntries(rows.map(({ label, value }) => [label, value])),
    ]),
  );

describe('the sheet of a file', () => {
  it('says picture and colour in words, with the exact rate and the numbers of the code points', () => {
    const sheets = said(probe(video()));
    expect(sheets['Picture']).toEqual({
      Codec: 'H.264, High',
      Raster: '1920 × 1080',
      'Pixel aspect': '4:3',
      Scan: 'Interlaced, top field first',
      Rate: '29.97 (30000/1001)',
      Frames: '300',
      'Bit depth': '8 bit',
      Chroma: '4:2:0',
      Alpha: 'No',
      Rotation: 'None',
      'Bit rate': '50.00 Mbit/s',
    });
    expect(sheets['Colour (ITU-T H.273)']).toEqual({
      Primaries: '1, BT.709',
      Transfer: '2, not said',
      Matrix: '2, not said',
      Range: 'Not said',
    });
    expect(sheets['Recording']).toMatchObject({
      'Start timecode': '01:00:00;00',
      Reel: 'A001',
      Device: 'Ottermouth Optical Pinhole 3',
    });
  });
  it('tells an average rate that differs, and a rotation', () => {
    const turned = video({ avg_frame_rate: '2871/100', side_data_list: [{ rotation: -90 }] });
    expect(said(probe(turned))['Picture']).toMatchObject({ 'Average rate': '28.71 (2871/100)', Rotation: '-90°' });
  });
  it('numbers several sounds, and leaves out what is not said', () => {
    const sound: ProbeStream = {
      codec_type: 'audio',
      codec_name: 'pcm_s24le',
      channels: 1,
      sample_rate: '48000',
      bits_per_raw_sample: '24',
    };
    const sheets = said(
      probe(sound, { ...sound, channel_layout: 'mono', bits_per_raw_sample: '0', bits_per_sample: 16 }),
      undefined,
    );
    expect(sheets['Sound 1']).toEqual({
      Codec: 'pcm_s24le',
      Channels: '1',
      Layout: 'Not said',
      'Sample rate': '48000 Hz',
      'Bit depth': '24 bit',
    });
    expect(sheets['Sound 2']).toMatchObject({ Layout: 'mono', 'Bit depth': '16 bit' });
    expect(sheets['Picture']).toBeUndefined();
  });
  it.each([
    [{ log2_chroma_w: 0, log2_chroma_h: 0 }, '4:4:4'],
    [{ log2_chroma_w: 1, log2_chroma_h: 0 }, '4:2:2'],
    [{ log2_chroma_w: 2, log2_chroma_h: 0 }, '4:1:1'],
    [{ nb_components: 1 }, 'None (grey)'],
    [{ flags: { alpha: 1, rgb: 1 } }, 'RGB'],
    [{ log2_chroma_w: 3, log2_chroma_h: 3 }, ''],
  ])('%j is %s', (changes, wanted) => expect(wordChroma({ ...format, ...changes })).toBe(wanted));
});

describe('corrections', () => {
  const facts = mediaFacts(probe(video()), 'A001C001.mov');
  const shot: MediaFacts = sequenceFacts({ ...facts, startFrame: null, dropFrame: false }, 48, rational(25));
  const correct = (of: MediaFacts, changes: Partial<IngestSettings['corrections']>) =>
    corrected(of, { ...plainSettings().corrections, ...changes });

  it('nothing said is nothing changed', () => {
    expect(correct(facts, {})).toEqual(facts);
    expect(correct(shot, {})).toEqual(shot);
  });
  it('a rate is for sequences only, and their length in time follows it', () => {
    expect(correct(shot, { sequenceRate: '24' })).toMatchObject({
      rate: { num: 24, den: 1 },
      durationFrames: 48,
      durationMs: 2000,
    });
    expect(correct(facts, { sequenceRate: '24' }).rate).toEqual(facts.rate);
  });
  it.each([
    [{ startTimecode: '10:00:00:00' }, 10 * 3600 * 25],
    [{ startTimecode: '10:00:00:00', offsetFrames: -5 }, 10 * 3600 * 25 - 5],
    [{ offsetFrames: 7 }, 7],
    [{ startTimecode: '99:00:00:00' }, null],
  ])('%j begins at frame %s', (changes, frame) => expect(correct(shot, changes).startFrame).toBe(frame));
  it('drop-frame is counted as it is written', () =>
    // SMPTE ST 12-1: ten minutes of drop-frame are 17,982 frames.
    expect(correct(facts, { startTimecode: '00:10:00;00' }).startFrame).toBe(17_982));
  it('colour is said anew only where it is said', () =>
    expect(correct(facts, { colour: { primaries: null, transfer: 'smpte2084', matrix: null } }).colour).toEqual({
      primaries: 'bt709',
      transfer: 'smpte2084',
      matrix: null,
      range: null,
    }));
});

describe('names', () => {
  const [clip, shot] = [['A001C001.mov'], ['s_0998.exr', 's_0999.exr', 's_1000.exr']].map(
    (names) =>
      itemsOf(
        names.map((name) => ({ name, bytes: 1, modifiedMs: 1 })),
        'card/A001',
      ).items[0] as ShelfItem,
  ) as [ShelfItem, ShelfItem];
  it('are made of what is known, also where that is nothing', () => {
    const facts = mediaFacts(probe(video()), 'A001C001.mov');
    expect(nameFor('{reel}_{timecode}_{rate}_{folder}_{n:2}', clip, facts, 3)).toBe('A001_01-00-00;00_29.97df_A001_03');
    expect(nameFor('{reel}_{name}_{n}', clip, null, 1)).toBe('A001C001_1');
    expect(nameFor('{name}', shot, null, 1)).toBe('s');
  });
  it('of a sequence that was given another one, say its numbers', () => {
    expect(nameAt(shot, 'in/bell.0998.exr')).toBe('bell.[0998-1000].exr');
    expect(nameAt(clip, 'in/other.mov')).toBe('other.mov');
  });
  it.each([
    ['/a/s_0001.exr', { before: '/a/s_', digits: '0001', after: '.exr' }],
    ['/a/v2/s.0001.exr', { before: '/a/v2/s.', digits: '0001', after: '.exr' }],
    ['/a/s.exr', null],
    ['/a/1/s.exr', null],
  ])('%s ends in a number: %j', (path, wanted) => expect(sequenceName(path)).toEqual(wanted));
});
