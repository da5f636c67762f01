/** What is said in a sound: words in time, passages of them, and where a search found something. */
export * from './transcript';
export { packSpoken, unpackSpoken, SPOKEN_VERSION } from './pack';
export { passagesOf, type Passage } from './passages';
export { cuesOf, spokenOfCues } from './cues';
export { corrected, namedSpeaker } from './correct';
export { passageRows, writeText, type PlaceOf } from './write-text';
export { heardWords, readLattice, readSegments, type HeardSegment, type Lattice } from './lattice';
export { spokenHits, type SpokenHit } from './said';
