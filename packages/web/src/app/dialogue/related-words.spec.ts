import {
  readSpoken,
  readsAsQuestion,
  reduceQuestion,
  relatedSaid,
  SpokenIndex,
  wayText,
  type RelatedAsked,
} from '@larder/core/dialogue';
import type { RelatedAnswer, RelatedAskedFor } from '@larder/contract';
import { asset } from '../../../test/assets';
import { LibraryServer } from '../../../test/library';
import { Refusal, Screen, until } from '../../../test/screen';

const SAID = ['they repaired the lock gates by hand', 'a narrow boat and a barge and a gate', 'the boats waited'];
/** What a lexical database would say of some words. */
const GROUPS: Readonly<Record<string, RelatedAsked['groups']>> = {
  boat: [
    { relation: 'same', meaning: 'a small vessel', words: ['ship'] },
    { relation: 'narrower', meaning: 'a small vessel', words: ['barge', 'narrow boat'] },
    { relation: 'akin', meaning: 'to go by water', words: ['waited'] },
  ],
};

let server: LibraryServer;
let index: SpokenIndex;

function related({ kept = [], said = '' }: Partial<RelatedAskedFor>): RelatedAnswer {
  if (readsAsQuestion(said)) {
    const known = { terms: new Set<string>(), irregular: new Map<string, string[]>() };
    return { revision: 1, question: reduceQuestion(said, new Set(kept), known, index, null), terms: [] };
  }
  const texts = readSpoken(said).flatMap(({ ways: [way] }) => (way ? [wayText(way)] : []));
  const asked = texts.map((text) => ({ text, irregular: [], groups: GROUPS[text] ?? [] }));
  return { revision: 1, question: null, terms: relatedSaid(index, asked, null) };
}

beforeEach(() => {
  sessionStorage.clear();
  localStorage.clear();
  index = new SpokenIndex({ ways: () => [], isHeard: () => true });
  SAID.forEach((text, at) => {
    const words = text.split(' ').map((word, n) => ({ text: word, startMs: n, endMs: n + 1, certainty: null }));
    index.upsert([{ id: at + 1, wholeId: 0, spoken: { words, speakers: [] } }]);
  });
  server = new LibraryServer([asset(1)]);
  server.on('spoken', () => ({ revision: 1, offset: 0, notches: [], items: [], files: [], searched: SAID.length }));
  server.on('spokenPassages', () => ({ revision: 1, count: 0, passages: [], assets: [], notches: [] }));
  server.on('related', related);
});

const panel = 'nl-related-words';
const chips = (screen: Screen, pressed?: boolean) =>
  screen
    .all(`${panel} nl-word-chip button${pressed === undefined ? '' : `[aria-pressed="${pressed}"]`}`)
    .map(({ textContent }) => textContent?.replace(/\s+/g, ' ').trim());
const chip = (screen: Screen, word: string) => screen.click(`${panel} nl-word-chip button`, word);
const written = (screen: Screen) => screen.one<HTMLInputElement>('nl-dialogue .what').value;

describe('related words', () => {
  it('are offered by their meanings as far as they are said, and looked for when they are chosen', async () => {
    const screen = await Screen.open('/dialogue?said=boat', server);
    expect(screen.all(panel)).toEqual([]);
    await screen.click('button', 'Related words');
    await screen.says(panel, 'a small vessel');
    expect(chips(screen)).toEqual(['boats 1', 'barge 1', 'narrow boat 1', 'waited 1']);
    await chip(screen, 'narrow boat');
    await chip(screen, 'barge');
    expect(written(screen)).toBe('boat|"narrow boat"|barge');
    await until('the files in which any of it is said', () => server.bodies('spoken').at(-1)?.said === written(screen));
    expect(chips(screen, true)).toEqual(['barge 1', 'narrow boat 1']);
    await chip(screen, 'narrow boat');
    expect(written(screen)).toBe('boat|barge');
    await screen.click('button', 'Related words');
    expect([screen.all(panel), written(screen)]).toEqual([[], 'boat|barge']);
  });

  it('say where there are none, where no more fit, and what went wrong', async () => {
    const screen = await Screen.open('/dialogue?related=1&said=hand', server);
    await screen.says(panel, 'Nothing that goes with it is said in these files.');
    const ways = Array.from({ length: 11 }, (_unused, n) => `w${n}`).join('|');
    await screen.type('nl-dialogue .what', `boat|${ways}`);
    await screen.says(panel, 'a small vessel');
    expect(screen.all<HTMLButtonElement>(`${panel} nl-word-chip button`).every(({ disabled }) => disabled)).toBe(true);
    expect(screen.one(`${panel} nl-word-chip button`).title).toBe('At most 12 ways to say one thing are looked for.');
    server.on('related', () => new Refusal(422, { code: 'refused', reason: 'WordNet is not there.' }));
    await screen.type('nl-dialogue .what', 'boat gate');
    await screen.says(`${panel} [role="alert"]`, 'WordNet is not there.');
    server.on('related', related);
    await screen.click(`${panel} button`, 'Try again');
    await screen.says(panel, 'a small vessel');
    await screen.type('nl-dialogue .what', 'gat*');
    await screen.type('nl-dialogue .what', '');
    expect(screen.all(panel)).toEqual([]);
  });

  it('of a question begin with what it is about, step by step', async () => {
    const screen = await Screen.open('/dialogue?said=who%20repaired%20the%20lock%20gate%20at%20night%3F', server);
    await screen.says('nl-dialogue .notice', 'That reads like a question.');
    await screen.click('button', 'What is it about?');
    await screen.says(panel, 'Left out, as it says nothing by itself');
    expect(chips(screen)).toEqual(['who', 'the', 'at', 'repaired 1', 'lock gate', 'lock gates 1', 'night']);
    await screen.says(panel, 'said one after the other');
    await screen.says(panel, 'Nobody says “night” as it is spelled.');
    await chip(screen, 'night');
    await chip(screen, 'at');
    await screen.says(`${panel} .reduced`, 'repaired "lock gate"|"lock gates"');
    await chip(screen, 'at');
    await screen.click(`${panel} button`, 'Look for this in passages');
    expect(written(screen)).toBe('repaired "lock gate"|"lock gates"');
    await until('the passages', () => server.bodies('spokenPassages').at(-1)?.said === written(screen));
    expect(server.bodies('spokenPassages').at(-1)).toMatchObject({ how: 'any' });
    await screen.says(panel, 'repaired');
  });

  it('of a question that is about nothing say so', async () => {
    const screen = await Screen.open('/dialogue?related=1&said=what%20is%20it%3F', server);
    await screen.says(panel, 'Nothing is left of it.');
    expect(screen.all(`${panel} .reduced`)).toEqual([]);
  });
});
