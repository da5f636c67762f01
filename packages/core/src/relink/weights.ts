/** What can speak for or against a candidate being the lost original. */
export const EVIDENCE_KINDS = [
  'fingerprint',
  'size',
  'name',
  'timecode',
  'duration',
  'reel',
  'rate',
  'raster',
  'modified',
] as const;
export type EvidenceKind = (typeof EVIDENCE_KINDS)[number];

/**
 * Log-odds, to base e, that each finding adds: how much more often it is met with the right file than with a wrong one of the
 * same library. Set by judgement, from what is known of files, not by measurement:
 *
 * - fingerprint: size and hash of both ends; two different recordings practically never share it.
 * - size: recordings of equal length from one camera can agree to the byte when uncompressed, so it alone is not proof.
 * - name: cameras start counting again on every card, so names repeat within a production.
 * - timecode, duration: equal to the frame by chance only with free-run timecode of two cameras or with fixed-length clips.
 * - rate, raster: nearly all files of a shoot agree, so agreement says little and disagreement much.
 * - modified: copies often keep it, and just as often do not.
 */
export const WEIGHTS: Readonly<Record<EvidenceKind, { readonly agrees: number; readonly disagrees: number }>> = {
  fingerprint: { agrees: 9, disagrees: -1.5 },
  size: { agrees: 3, disagrees: -2 },
  name: { agrees: 2, disagrees: -1 },
  timecode: { agrees: 3, disagrees: -4 },
  duration: { agrees: 2, disagrees: -4 },
  reel: { agrees: 1.5, disagrees: -2 },
  rate: { agrees: 0.3, disagrees: -5 },
  raster: { agrees: 0.3, disagrees: -2 },
  modified: { agrees: 1.5, disagrees: -0.3 },
};

/** Before any evidence: of the files in a folder someone points at, about one in twenty is the one sought. */
export const PRIOR_LOG_ODDS = Math.log(1 / 19);
