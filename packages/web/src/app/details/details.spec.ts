import { TestBed } from '@angular/core/testing';
import { provideStore } from '@ngrx/store';
import type { Asset } from '@larder/contract';
import { asset } from '../../../test/assets';
import { StateBadge } from '../shared/state-badge';
import { Tile } from '../library/tile';
import { sharedValue } from './selection-log';
import { factsOf } from './facts';

describe('what many assets share', () => {
  it('one value, or different ones', () => {
    const [a, b] = [asset(1, { title: 'Lock' }), asset(2, { title: 'Lock' })];
    expect(sharedValue([a, b], (each) => each.title)).toEqual({ same: true, value: 'Lock' });
    expect(sharedValue([a, asset(3)], (each) => each.title)).toEqual({ same: false });
    expect(sharedValue([] as Asset[], (each) => each.title)).toEqual({ same: false });
  });
  it('facts that a file does not state are left out', () => {
    const labels = factsOf(asset(1, { width: null, codec: null, pixelFormat: null })).map((fact) => fact.label);
    expect(labels).toEqual(expect.arrayContaining(['Name', 'Duration', 'Start']));
    expect(labels).not.toEqual(expect.arrayContaining(['Raster']));
  });
  it.each([
    [{ channels: 4, streams: [1, 1, 1, 1], layout: 'mono' }, '4 channels in 4 streams'],
    [{ channels: 2, streams: [0, 2], layout: 'stereo' }, 'stereo'],
    [{ channels: 8, layout: null }, '8 channels'],
  ])('sound of %j is called %s', (sound, wanted) => {
    const facts = factsOf(asset(1, { sound: { codec: 'pcm_s24le', sampleRate: 48_000, ...sound } }));
    expect(facts.find(({ label }) => label === 'Sound')?.value).toBe(`${wanted}, 48,000 Hz, pcm_s24le`);
  });
});

describe('an asset on the contact sheet', () => {
  it('says its kind, verdict and state in words, on the screen and to a screen reader', async () => {
    TestBed.configureTestingModule({ providers: [provideStore()] });
    const fixture = TestBed.createComponent(Tile);
    fixture.componentRef.setInput('asset', asset(1, { title: 'Lock at dawn', verdict: 'circled', state: 'missing' }));
    await fixture.whenStable();
    const host = fixture.nativeElement as HTMLElement;
    for (const word of ['Lock at dawn', 'Video', 'Circled', 'Missing', '0:04'])
      expect(host.textContent).toContain(word);
    expect(host.getAttribute('aria-label')).toBe('Lock at dawn, Video, 0:04, Circled, missing');
    expect(host.getAttribute('aria-selected')).toBe('false');
  });
  it('an original that is where it should be needs no word', async () => {
    const fixture = TestBed.createComponent(StateBadge);
    fixture.componentRef.setInput('asset', asset(1));
    await fixture.whenStable();
    expect((fixture.nativeElement as HTMLElement).textContent.trim()).toBe('');
  });
});
