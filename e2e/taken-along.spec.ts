import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { begin, type Begun, until } from './kit';

const FILES = ['A001C001.mov', 'A001C002.mov', 'A001C003.mov'];

let bench: Begun['bench'];
let maren: Begun['maren'];
let end: Begun['end'];

beforeAll(async () => {
  ({ bench, maren, end } = await begin(FILES));
  const plain = { description: '', letter: '' };
  const set = await maren.post('/api/tag-sets', { ...plain, name: 'Light', pattern: 'dots' });
  await maren.post('/api/tags', { ...plain, name: 'dawn', setId: set['id'], synonyms: ['first light'] });
}, 300_000);
afterAll(() => end(), 60_000);

/** A file as a browser of this person gets it. */
const file = (path: string): Promise<string> => maren.page.evaluate(async (from) => (await fetch(from)).text(), path);

interface Row {
  readonly id: number;
  readonly name: string;
  readonly tags: readonly string[];
}
const rows = async (query: string): Promise<readonly Row[]> =>
  (await maren.post('/api/search', { query, limit: 100, sort: { field: 'name', descending: false } }))[
    'assets'
  ] as readonly Row[];

describe('what is said in time', () => {
  it('comes in as captions, is undone as one, and leaves again', async () => {
    const captions = join(bench.folder, 'lock.vtt');
    writeFileSync(
      captions,
      'WEBVTT\n\n00:01.000 --> 00:02.000\n<v Mara>Low water\n\n00:03.000 --> 00:04.000\nThe gate\n\n10:00.000 --> 10:01.000\nfar off\n',
    );
    await maren.section('Library');
    await maren.search('name:A001C001');
    await maren.clickText('nl-tile', 'A001C001');
    const box = await maren.page.waitForSelector('nl-timed-notes input[type=file]');
    await box?.uploadFile(captions);
    await maren.says('nl-toasts', '2 markers from lock.vtt. 1 caption beyond the end of the clip left out.');
    await maren.says('nl-details nl-marker-list', 'Mara: Low water');
    // 25 frames a second: the second caption begins at frame 75.
    const vtt = await maren.page.$eval('nl-timed-notes a', async (link) => (await fetch(link.href)).text());
    expect(vtt).toContain('The gate\n00:00:03.000 --> 00:00:04.000\n<c.note>The gate</c>');
    await maren.clickText('nl-details .place', '03:00');
    await until('the frame', async () => (await maren.frameShown()) === 75);
    await maren.press('Control+z');
    await until('the markers gone', async () => (await maren.page.$$('nl-details [data-marker]')).length === 0);
  }, 60_000);

  it('on a string-out goes with its clip, and is handed over', async () => {
    const project = await maren.post('/api/projects', { name: 'Locks', description: null, counting: '25' });
    const assetIds = (await rows('name:A001*')).map(({ id }) => id);
    const out = await maren.post('/api/string-outs', { name: 'Morning', projectId: project['id'], assetIds });
    await maren.page.goto(`${bench.base}/string-outs/${String(out['id'])}`);
    await maren.says('nl-player [data-test="frame"]', '0 / ');
    await maren.press('ArrowRight', 'ArrowRight', 'ArrowRight');
    await until('the frame', async () => (await maren.frameShown()) === 3);
    await maren.press('Shift+m');
    await maren.page.waitForSelector('[aria-label="Name of the marker"]:focus');
    await maren.page.keyboard.type('She laughs');
    await maren.page.keyboard.press('Enter');
    await maren.says('nl-run-markers', '01:00:00:03');
    await maren.says('nl-run-markers', 'She laughs');
    // Behind the second clip, as long as that is.
    const length = await maren.page.$eval('li.clip:nth-of-type(3) .at', (at) => at.textContent);
    await maren.press('Alt+ArrowDown');
    await until('the marker moved', async () => (await maren.text('nl-run-markers .place')) !== '01:00:00:03');
    await maren.press('Control+z');
    await maren.says('nl-run-markers .place', '01:00:00:03');
    expect(length).toMatch(/^01:00:0\d/);
    await until('it to be saved', async () =>
      (await file(`/files/string-outs/${String(out['id'])}.edl`)).includes('* MARKER: 01:00:00:03 She laughs'),
    );
    const otio = JSON.parse(await file(`/files/string-outs/${String(out['id'])}.otio`)) as unknown;
    expect(JSON.stringify(otio)).toContain('"OTIO_SCHEMA":"Marker.2"');
    await maren.page.reload();
    await maren.says('nl-run-markers', 'She laughs');
    expect(maren.complaints).toEqual([]);
  }, 60_000);
});

describe('a whole list', () => {
  it('has tags dropped on its rows, is found by their other words, and leaves as XMP sidecars', async () => {
    await maren.section('Library');
    await maren.search('name:A001*');
    await maren.press('v');
    await maren.page.waitForSelector('.ag-row [col-id="name"]');
    await maren.clickText('.head button', 'Tags');
    await maren.page.waitForSelector('nl-tag-board [data-tag=dawn]');
    // Without a pointer that the system knows of, a browser begins no dragging by itself; what follows it is told here.
    const dropped = await maren.page.evaluate(() => {
      const dataTransfer = new DataTransfer();
      const send = (type: string, selector: string) => {
        const event = new DragEvent(type, { dataTransfer, bubbles: true, cancelable: true });
        document.querySelector(selector)?.dispatchEvent(event);
        return event.defaultPrevented;
      };
      const row = '.ag-row[row-index="1"] [col-id="name"]';
      send('dragstart', 'nl-tag-board [data-tag=dawn]');
      const allowed = send('dragover', row);
      const shown = document.querySelectorAll('.nl-over').length;
      send('drop', row);
      return { allowed, shown, left: document.querySelectorAll('.nl-over').length };
    });
    expect(dropped).toEqual({ allowed: true, shown: 2, left: 0 });
    await until('the tag', async () => (await rows('name:A001*'))[1]?.tags.includes('dawn'));
    await maren.search('"first light"');
    await maren.says('[data-test="count"]', '1 asset');
    await maren.page.locator('nl-table-menu button').click();
    await maren.clickText('nl-list-sidecars button', 'Write an XMP sidecar of each');
    const link = await maren.withText('nl-jobs a[download]', 'Take them along');
    const archive = await link.evaluate(async (a) => {
      const bytes = new Uint8Array(await (await fetch((a as HTMLAnchorElement).href)).arrayBuffer());
      return { head: String.fromCharCode(...bytes.slice(0, 2)), size: bytes.length };
    });
    expect(archive.head).toBe('PK');
    expect(archive.size).toBeGreaterThan(500);
    expect(maren.complaints).toEqual([]);
  }, 60_000);
});
