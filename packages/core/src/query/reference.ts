import type { RegisteredField } from '../fields';

/** One way to write a search, and what it finds; quoted in backticks is what is written or said. */
export interface SearchForm {
  readonly write: readonly string[];
  readonly finds: string;
}

/** The search language by its forms, in the order in which one learns it. The page that explains it and its description print this. */
export const SEARCH_FORMS: readonly SearchForm[] = [
  {
    write: ['wide boathouse'],
    finds:
      'assets in which all words are found in any of their forms, each anywhere in the fields that plain words look in',
  },
  { write: ['"low water"'], finds: 'these very words, side by side, in order' },
  { write: ['dawn or dusk'], finds: 'either; `or` binds loosest, so `lock dawn or lock dusk` is two pairs' },
  { write: ['lock (dawn or dusk)'], finds: 'brackets group' },
  { write: ['-music', 'not music'], finds: 'without' },
  { write: ['boat*'], finds: 'words that begin so' },
  {
    write: ['*boat', '*oat*'],
    finds: 'words that end so, or have these letters anywhere; letters of two words too: `*k-b*`',
  },
  {
    write: ['tag:dawn', 'tag:"golden hour"', 'tag:(dawn or dusk)'],
    finds: 'in one field; lists in brackets; of a tag also by the other words for it',
  },
  {
    write: ['tag="golden hour"', 'reel=A001', 'tag=(dawn or dusk)'],
    finds: 'one thing said in the field is these words and no others: `tag:dawn` also finds the tag “early dawn”',
  },
  {
    write: ['verdict:circled', 'kind:audio', 'is:missing'],
    finds:
      'one of a fixed choice, as a whole: `framing:medium` is not `medium wide`; what was said before a list lost it, with `=`',
  },
  { write: ['duration>10s', 'duration:1m..2m30s'], finds: 'more, less, between; both ends of a range are inside' },
  { write: ['size<2GB', 'width>=1920'], finds: 'units are decimal, and `GiB` is 1,024 times 1,024 times 1,024' },
  {
    write: ['shot:2026-05', 'shot>2026-05-03', 'shot:2026-05..2026-06'],
    finds: 'a year, month or day is the whole span it names, in UTC',
  },
  {
    write: ['added:today', 'shot:last-week'],
    finds: 'also `yesterday`, `this-week`, `this-` or `last-month`, `-year`; weeks begin on Mondays',
  },
  { write: ['added<1h', 'shot>2mo'], finds: 'less, or longer, ago than so many `min`, `h`, `d`, `w`, `mo` or `y`' },
  { write: ['has:place', 'no:tag'], finds: 'the field says something, or nothing' },
  { write: ['marker:laughs', 'has:marker'], finds: 'what its markers say in name or note' },
  { write: ['part:subclip', 'part:whole'], finds: 'subclips, or what is catalogued as a whole' },
  {
    write: ['near:50.4120,-3.5180,2km', 'has:position'],
    finds: 'recorded within that far of a place (m or km; 1 km if nothing is said), on the ellipsoid',
  },
  {
    write: ['near:Ottermouth', 'near:"low quay" <20km'],
    finds:
      'recorded within that far of where assets lie that say these words of their place; of a place that is spread out, of each of its parts',
  },
  {
    write: ['in:"Day one/A001"', 'in:"Golden hour"'],
    finds: 'what a bin filled by hand holds, by words of its path; or what a live bin finds, by its whole name',
  },
  {
    write: ['tc:10:04', 'tc:10:04:00:00..', 'tc<09:00'],
    finds: 'the timecode of the first frame: a minute, second or frame is the whole span it names; rates do not matter',
  },
  {
    write: ['said:"low water"', 'has:said'],
    finds: 'what is spoken, by the best transcript there is; plain words look there where a manager chooses so',
  },
  {
    write: ['heard:ottermouth', 'heard:"low water,sounds"', 'heard:"gate + bell,5s"', 'heard:"boat|ship"'],
    finds:
      'what is spoken, as it sounds: how sure it must be follows with a comma (`spelled`, `sure`, `likely`, which it is by itself, `maybe`, `sounds`); several things within so many seconds of each other (10 if nothing is said); or any of several',
  },
  { write: ['is:used', 'is:unused'], finds: 'whether any string-out has it' },
  { write: ['is:twin'], finds: 'the same file is in the library a second time, as another asset' },
  { write: ['project:"slow water"'], finds: 'in a string-out of that project' },
  {
    write: ['stream:8', 'channels:8', 'codec:h264', 'soundcodec:aac'],
    finds: 'any stream of sound with eight channels, eight channels in all of them, how picture and sound are encoded',
  },
  {
    write: ['like:1234'],
    finds:
      'shares with that asset at least two of what tells it from others: tags, people, place, scene, words of its title and description',
  },
  { write: ['barcode:0012345'], finds: 'the label of the tape, card or disk; plain words look there, too' },
  { write: ['by:maren', 'number:1234'], finds: 'who has said anything of it; its number in this library' },
  { write: ['flag:mine', 'no:flag'], finds: 'flagged by whoever asks, or not' },
];

/** What may be asked of a field, as an example that can be run. */
export function exampleOf({ type, choices, decimals }: RegisteredField, name: string): string {
  if (choices?.[0] !== undefined) return `${name}:${choices[0].includes(' ') ? `"${choices[0]}"` : choices[0]}`;
  switch (type) {
    case 'durationMs':
      return `${name}>1m30s`;
    case 'bytes':
      return `${name}>2GB`;
    case 'dateMs':
      return `${name}:this-year`;
    case 'timecodeLabel':
      return `${name}:10:00..11:00`;
    case 'position':
      return `${name}:Ottermouth,20km`;
    case 'number':
      return decimals ? `${name}>2.5` : `${name}:1..5`;
    default:
      return `has:${name}`;
  }
}
