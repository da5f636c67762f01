/** What is said in a sound: words in time, passages of them, and where a search found something. */
export * from './transcript';
export { packSpoken, unpackSpoken, SPOKEN_VERSION } from './pack';
export { PASSAGE_LENGTHS, passagesOf, type Passage, type PassageLength } from './passages';
export { sentenceEnds } from './sentences';
export { aligned, partnersOf, type Aligned } from './align';
export { readCtm, wordCtmIssue, writeCtm, type CtmIssue } from './ctm';
export { cuesOf, spokenOfCues } from './cues';
export {
  cuesOfTurns,
  isWrittenTable,
  readTime,
  readWrittenTable,
  readWrittenText,
  wordWrittenIssue,
  type WrittenTimes,
  type WrittenTranscript,
  type WrittenTurn,
} from './read-text';
export { corrected, namedSpeaker } from './correct';
export { passageRows, writeText, type PlaceOf } from './write-text';
export { heardWords, readLattice, readSegments, type HeardSegment, type Lattice } from './lattice';
export { readSounds, withSounds, writeSounds } from './sounds';
export { spokenHits, type SpokenHit } from './said';
export { confidenceOf, confidenceOfHeard, NOTCHES, type HeardEvidence } from './confidence';
export { HeardAnswers, heardIn, heardPlaces, heardQuery } from './heard';
export { PHONES, phonesText, readPhones, type Phones } from './phones';
export { phonesOfIpa } from './ipa';
export { Dictionary, writtenWords, type Pronouncer } from './pronounce';
export {
  HOWS,
  readSpoken,
  wayText,
  writeSpoken,
  type SpokenHow,
  type SpokenItem,
  type SpokenQuestion,
  type SpokenWay,
} from './question';
export { atOf, confidenceIn, isSpelled, wordsOf } from './spoken-hits';
export { SPOKEN_INDEX_VERSION, SpokenIndex, type KeptSpoken, type SpokenFile, type SpokenFound } from './spoken-index';
export {
  MOST_PLACES,
  SPOKEN_SORTS,
  spokenWindow,
  type SpokenInFile,
  type SpokenPlace,
  type SpokenSort,
} from './spoken-window';
export { spokenTotals, type NamedTotal, type SpokenTotal, type SpokenTotals } from './spoken-totals';
export type { SpokenDocument, SpokenSegment } from './spoken-segment';
export {
  PASSAGE_ENDS,
  rankedPassages,
  type PassageEnd,
  type PassagePiece,
  type SpokenPassage,
} from './spoken-passages';
export {
  MOST_THEME_FILES,
  MOST_THEME_WORDS,
  passagesWith,
  themesOf,
  type Theme,
  type ThemedFile,
  type Themes,
  type ThemesAgainst,
  type ThemeTerm,
} from './themes';
export {
  customKey,
  LONGEST_WORD,
  MOST_WAYS,
  MOST_WORD_SOUNDS,
  soundsOfWay,
  speakable,
  type CustomWord,
} from './custom-words';
export { wordsOfModel, withWords } from './language-model';
export {
  reducedText,
  reduceQuestion,
  readsAsQuestion,
  rowsOf,
  runsOf,
  TERM_WHYS,
  type ReducedQuestion,
  type ReducedTerm,
  type TermWhy,
  type WordsKnown,
} from './reduce';
export {
  MOST_RELATED,
  relatedBy,
  relatedSaid,
  RELATIONS,
  saidIn,
  type RelatedAsked,
  type RelatedGroup,
  type RelatedTerm,
  type Relation,
  type SaidWord,
} from './related';
export { WORD_CLASSES, WordNet, type Sense, type WordClass, type WordNetFiles } from './word-net';
export { saysNothing } from './stems';
export { wovenChannels, type SpokenChannel } from './channels';
