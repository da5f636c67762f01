import { mediaFacts, type ProbeOutput } from '../src/media/facts';

const video = {
  codec_type: 'video',
  codec_name: 'h264',
  width: 1920,
  height: 1080,
  r_frame_rate: '25/1',
  time_base: '1/12800',
  duration_ts: 51_200,
} as const;
const facts = (probe: ProbeOutput, name = 'clip.mov') => mediaFacts(probe, name);

describe('what ffprobe says, in the catalogue’s terms', () => {
  it('counts frames exactly from the time base where the file does not count them', () => {
    expect(facts({ streams: [video] })).toMatchObject({
      kind: 'video',
      durationFrames: 100,
      durationMs: 4000,
      startFrame: null,
    });
    expect(facts({ streams: [{ ...video, nb_frames: '99' }] }).durationFrames).toBe(99);
  });
  it('turned pictures stand upright', () =>
    expect(facts({ streams: [{ ...video, side_data_list: [{ rotation: -90 }] }] })).toMatchObject({
      width: 1080,
      height: 1920,
    }));
  it('takes the reel from the tag, else from a camera’s file name', () => {
    expect(facts({ streams: [{ ...video, tags: { reel_name: 'X9' } }] }, 'A001C002.mov').reel).toBe('X9');
    expect(facts({ streams: [video] }, 'A001C002.mov').reel).toBe('A001');
    expect(facts({ streams: [video] }, 'holiday.mov').reel).toBeNull();
  });
  it('a cover picture makes no video of a sound', () =>
    expect(
      facts({
        streams: [
          { codec_type: 'audio', channels: 2, sample_rate: '48000' },
          { ...video, disposition: { attached_pic: 1 } },
        ],
        format: { duration: '3.500' },
      }),
    ).toMatchObject({ kind: 'audio', durationMs: 3500 }));
  it('sound of several streams is one, and what cannot be decoded is no part of it', () => {
    const mono = { codec_type: 'audio', codec_name: 'pcm_s24le', channels: 1, sample_rate: '48000' };
    expect(facts({ streams: [video, mono, mono, mono, mono] }).sound).toEqual({
      codec: 'pcm_s24le',
      channels: 4,
      streams: [1, 1, 1, 1],
      layout: null,
      sampleRate: 48_000,
    });
    expect(facts({ streams: [video, mono] }).sound).not.toHaveProperty('streams');
    const unknown = { codec_type: 'audio', channels: 4, sample_rate: '48000' };
    const stereo = { ...mono, codec_name: 'aac', channels: 2, channel_layout: 'stereo' };
    expect(facts({ streams: [video, unknown, stereo] }).sound).toMatchObject({
      codec: 'aac',
      channels: 2,
      streams: [0, 2],
      layout: 'stereo',
    });
    for (const layout of ['unknown', '6 channels', '6 channels (FL+FR+FC+LFE+TC+TFC)'])
      expect(facts({ streams: [video, { ...stereo, channels: 6, channel_layout: layout }] }).sound?.layout).toBeNull();
    expect(facts({ streams: [video, unknown] })).toMatchObject({ kind: 'video', sound: null });
  });
  it('a timecode that drop-frame does not have is none, and clocks that were never set are none', () => {
    const rate = { ...video, r_frame_rate: '30000/1001' };
    expect(facts({ streams: [{ ...rate, tags: { timecode: '00:01:00;00' } }] })).toMatchObject({
      startFrame: null,
      dropFrame: true,
    });
    expect(
      facts({ streams: [{ ...rate, tags: { timecode: '00:01:00;02', creation_time: '1904-01-01T00:00:00Z' } }] }),
    ).toMatchObject({ startFrame: 1800, shotMs: null });
  });
  it('survives output that lies or says nothing', () => {
    for (const probe of [
      {},
      { streams: [{}] },
      { streams: [{ ...video, r_frame_rate: '0/0', nb_frames: 'N/A' }] },
      { streams: [{ ...video, width: -1, time_base: 'x' }], format: { duration: 'never' } },
    ])
      expect(() => facts(probe)).not.toThrow();
    expect(facts({}).kind).toBe('unreadable');
  });
});
