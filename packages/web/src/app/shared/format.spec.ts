import { asset } from '../../../test/assets';
import { counted, durationOf, formatBytes, formatDay, startOf } from './format';

describe('numbers become words', () => {
  it.each([
    [0, '0 B'],
    [999, '999 B'],
    [1500, '1.5 kB'],
    [99_960, '100 kB'],
    [2_000_000_000, '2.0 GB'],
    [1_234_000_000_000, '1.2 TB'],
  ])('%d bytes are %s', (bytes, words) => expect(formatBytes(bytes)).toBe(words));
  it('counts take their word along', () =>
    expect([counted(1, 'asset'), counted(1234, 'asset'), counted(2, 'entry', 'entries')]).toEqual([
      '1 asset',
      '1,234 assets',
      '2 entries',
    ]));
  it('days do not shift with the time zone', () => expect(formatDay(Date.UTC(2026, 4, 3, 23, 59))).toBe('3 May 2026'));
  it('durations and starts are of the asset’s own rate; sound starts on the clock', () => {
    expect([durationOf(asset(1)), startOf(asset(1))]).toEqual(['0:04', '01:00:00:00']);
    const sound = asset(2, {
      kind: 'audio',
      rate: null,
      durationFrames: null,
      startFrame: null,
      timeReferenceSamples: 34_867 * 48_000,
      sound: { codec: 'pcm_s16le', channels: 1, layout: 'mono', sampleRate: 48_000 },
    });
    expect([durationOf(sound), startOf(sound)]).toEqual(['0:04', '09:41:07']);
  });
});
