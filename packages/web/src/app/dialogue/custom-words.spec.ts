import { PHONES, type CustomWord } from '@larder/core/dialogue';
import { FILE_PATHS } from '@larder/contract';
import { LibraryServer } from '../../../test/library';
import { Refusal, Screen, until } from '../../../test/screen';

let server: LibraryServer;
let words: CustomWord[];

beforeEach(() => {
  sessionStorage.clear();
  localStorage.clear();
  words = [
    { id: 1, text: 'Ottermouth', says: ['AA T ER M AW TH'] },
    { id: 2, text: 'Slipway', says: ['S L IH P W EY', 'S L AY P W EY'] },
  ];
  server = new LibraryServer([]);
  server.on('customWords', () => ({ words }));
});

const view = 'nl-custom-words';
const open = (who: 'editor' | 'viewer' = 'editor') => Screen.open('/dialogue?view=names', server, who);
const said = (screen: Screen) => screen.all<HTMLInputElement>(`${view} tbody input`).map(({ value }) => value);

describe('the words of the production', () => {
  it('are listed with how they are said, narrowed by a quick box', async () => {
    const screen = await open();
    await screen.says(view, '2 words');
    expect(said(screen)).toEqual(['AA T ER M AW TH', 'S L IH P W EY / S L AY P W EY']);
    // Every sound that there is has an example.
    expect(screen.all(`${view} .sounds b`).map(({ textContent }) => textContent)).toEqual([...PHONES]);
    await screen.type(`${view} nl-quick-box input`, 'slip');
    await until('it alone', () => said(screen).length === 1);
    await screen.type(`${view} nl-quick-box input`, 'nothing');
    await screen.click(`${view} button`, 'Show all');
    await until('all', () => said(screen).length === 2);
  });

  it('are added as they are pasted, and what came of it is told', async () => {
    const screen = await open();
    await screen.says(view, '2 words');
    const known = Array.from({ length: 14 }, (_unused, at) => `known${at}`);
    server.on('newCustomWords', ({ names }) => {
      words = [...words, { id: 3, text: names, says: ['W R EH N'] }];
      return { added: 1, known, left: ['1998'] };
    });
    await screen.type(`${view} textarea`, 'Wrenn');
    await screen.click(`${view} form button`, 'Add');
    await screen.says(`${view} [role=status]`, '1 word added. The recogniser knows: known0,');
    await screen.says(
      `${view} [role=status]`,
      'known11 and 2 more. Left out, as nobody could say how it is said: 1998.',
    );
    screen.changed('custom-word', 3, 2);
    await screen.says(view, '3 words');
    server.on('newCustomWords', () => new Refusal(422, { code: 'refused', reason: 'There are at most 5,000.' }));
    await screen.type(`${view} textarea`, 'More');
    await screen.click(`${view} form button`, 'Add');
    await screen.says(`${view} [role=alert]`, 'There are at most 5,000.');
    // What was written is not lost.
    expect(screen.all<HTMLTextAreaElement>(`${view} textarea`)[0]?.value).toBe('More');
  });

  it('are changed, heard as they are written, and taken away', async () => {
    const screen = await open();
    await screen.says(view, '2 words');
    server.on('changeCustomWord', () => null);
    const [first] = screen.all<HTMLInputElement>(`${view} tbody input`);
    const write = (text: string) => {
      if (first) first.value = text;
      first?.dispatchEvent(new Event('change'));
    };
    write('OW T ER / AA T ER ');
    await until('both ways', () => server.bodies('changeCustomWord').length === 1);
    expect(server.bodies('changeCustomWord')).toEqual([{ says: ['OW T ER', 'AA T ER'] }]);
    const voice = screen.all<HTMLAudioElement>(`${view} audio`)[0];
    await screen.click(`${view} tbody button`, 'Hear');
    expect(voice?.getAttribute('src')).toBe(FILE_PATHS.spokenWay('OW T ER'));
    server.on('changeCustomWord', () => new Refusal(422, { code: 'refused', reason: 'A way is made of sounds.' }));
    write('AA B');
    await screen.says(`${view} tbody [role=alert]`, 'A way is made of sounds.');
    if (first) first.value = 'nonsense';
    await screen.click(`${view} tbody button`, 'Hear');
    await screen.says(`${view} tbody [role=alert]`, 'These are no sounds');
    expect(first?.value).toBe('nonsense');
    server.on('removeCustomWord', (_body, id) => {
      words = words.filter((word) => word.id !== id);
      return null;
    });
    await screen.click(`${view} tbody button`, 'Take Ottermouth away');
    screen.changed('custom-word', 1, 3);
    await screen.says(view, '1 word');
  });

  it('may be none, not be there, and not be a viewer’s to change', async () => {
    words = [];
    const screen = await open('viewer');
    await screen.says(view, 'No names yet');
    expect(screen.all(`${view} textarea`)).toEqual([]);
    server.on('customWords', () => new Refusal(503, { code: 'refused', reason: 'Not now.' }));
    screen.changed('custom-word', 1, 2);
    await screen.says(`${view} [role=alert]`, 'Not now.');
  });
});
