/** What can speak for or against a candidate being the lost original, in the order in which people read it. */
export const EVIDENCE_KINDS = [
  'checksum',
  'fingerprint',
  'size',
  'picture',
  'sound',
  'timecode',
  'duration',
  'reel',
  'name',
  'title',
  'folder',
  'rate',
  'raster',
  'channels',
  'shot',
  'modified',
] as const;
export type EvidenceKind = (typeof EVIDENCE_KINDS)[number];

/**
 * By how much each finding makes it likelier that a candidate is the lost original than that none of those found is: logarithms of odds,
 * to base e. Of each group one finding counts, the stronger ones first, so that what hangs together is not counted twice; what is not
 * known counts nothing. Fitted to some 4,000 lost files of made-up productions (`./larder bench relink fit`), but for the same bytes and
 * what is seen and heard, which are by judgement: nothing that is made up tells how seldom two recordings share them.
 */
export const WEIGHTS = {
  /**
   * Two recordings practically never share both ends and their size; where those of the library do, ends say no more than size. Of
   * uncompressed sound many share the size.
   */
  content: { checksum: 9, ends: 8, size: 0, other: -0.06, otherBytes: -6.82 },
  /** Equal to the frame by chance only with free-run timecode of two cameras, or with clips of one length. */
  time: { same: 5.75, startOnly: 2.88, within: 2.88, lengthOnly: 2.88, other: -2.14, otherStart: -6.83 },
  /**
   * Of files as long as each other, and looked at only where timecode does not tell. Takes of one locked-off set-up look alike; what is
   * said and played is never the same twice.
   */
  picture: { same: 3.5, other: -4 },
  sound: { same: 4, other: -4 },
  /** A card's name: what no camera writes twice in one production, but people do. */
  reel: { same: 1.14, other: -3.34 },
  /** Cameras start counting again on every card, so names repeat. Whoever converts a file mostly keeps its name and adds to it. */
  name: { same: 4.6, stem: 4.42, bare: 4.42, other: -2.97 },
  /** The folders right above it, which are mostly moved together with what is in them. */
  folder: { several: 0.53, one: 0.53, none: -2.47 },
  /** Nearly all files of a shoot are alike in this: to agree says little. What is made of a file may differ. */
  raster: { same: 0.65, other: -1.35 },
  channels: { same: 1.19, other: -2.54 },
  /** To the second, in which cameras of one shoot seldom start; but some write down when the card was begun. */
  shot: { same: 1.61, other: -5.68 },
  /** Copies often keep it; but whatever does not keep it leaves hundreds of files as old as each other. */
  modified: { same: 1.18, other: -1.81 },
} as const satisfies Readonly<Record<string, Readonly<Record<string, number>>>>;

/** Before anything is known of it: most of what meets a lost original in one thing is not it. */
export const BIAS = -2.77;
