/** Markers: named places and stretches in time. */
export * from './markers';
export { markersHit } from './hits';
