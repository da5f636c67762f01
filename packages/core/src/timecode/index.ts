/** Exact time: an integer count of frames and a rational rate. Seconds as floating point exist only at the very edge. */
export * from './label';
export * from './range';
export * from './rates';
export * from './rational';
export * from './timecode';
export * from './typed';
