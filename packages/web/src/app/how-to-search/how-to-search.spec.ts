import { FieldRegistry } from '@larder/core/fields';
import { asset } from '../../../test/assets';
import { LibraryServer } from '../../../test/library';
import { Screen, until } from '../../../test/screen';

describe('how to search', () => {
  it('says every form and every field, finds among them, and each example can be tried', async () => {
    const server = new LibraryServer([asset(1)]);
    const screen = await Screen.open('/library', server);
    await screen.click('nl-search-line [aria-label="How to search"]');
    await screen.says('nl-how-to-search h1', 'How to search');
    const fields = new FieldRegistry().all.filter(({ retired }) => !retired);
    expect(screen.all('nl-how-to-search [data-field]')).toHaveLength(fields.length);
    for (const { id, help } of fields) expect(screen.text(`[data-field="${id}"]`)).toContain(help);
    expect(screen.text('[data-field="tag"]')).toContain('•');
    await screen.type('nl-how-to-search input', 'barcode');
    await until('the field alone', () => screen.all('nl-how-to-search [data-field]').length === 1);
    expect(screen.text('nl-how-to-search h2')).toBe('What to write Slate');
    await screen.type('nl-how-to-search input', 'no such thing');
    await screen.says('nl-how-to-search', 'Nothing on this page says that.');
    await screen.type('nl-how-to-search input', 'timecode of the first');
    await screen.click('nl-how-to-search a', 'tc:10:04:00:00..');
    await until('the search', () => decodeURIComponent(screen.address) === '/library?q=tc:10:04:00:00..');
    expect(screen.one<HTMLInputElement>('#search-line').value).toBe('tc:10:04:00:00..');
  });
});
