/** Coding-independent code points for video (ITU-T H.273): what the numbers in a stream mean. */
export * from './h273';
