/** Markers: named places and stretches in time. */
export * from './markers';
export { havingHits, hitsIn, markersHit } from './hits';
export { cueOf, timedNotes, type TimedNotes, type Timeline } from './timed-notes';
