/** One value of a table of ITU-T H.273. */
export interface CodePoint {
  readonly code: number;
  /** The name by which ffprobe and ffmpeg know it. */
  readonly id: string;
  /** What it stands for, in the words of the standards it names. */
  readonly label: string;
}

/** Table 2, ColourPrimaries. */
export const COLOUR_PRIMARIES = [
  { code: 1, id: 'bt709', label: 'BT.709' },
  { code: 4, id: 'bt470m', label: 'BT.470 System M' },
  { code: 5, id: 'bt470bg', label: 'BT.470 System B, G (BT.601, 625 lines)' },
  { code: 6, id: 'smpte170m', label: 'SMPTE ST 170 (BT.601, 525 lines)' },
  { code: 7, id: 'smpte240m', label: 'SMPTE ST 240' },
  { code: 8, id: 'film', label: 'Generic film, illuminant C' },
  { code: 9, id: 'bt2020', label: 'BT.2020, BT.2100' },
  { code: 10, id: 'smpte428', label: 'SMPTE ST 428-1 (CIE XYZ)' },
  { code: 11, id: 'smpte431', label: 'SMPTE RP 431-2 (P3, DCI white)' },
  { code: 12, id: 'smpte432', label: 'SMPTE EG 432-1 (P3, D65)' },
  { code: 22, id: 'ebu3213', label: 'EBU Tech 3213-E' },
] as const satisfies readonly CodePoint[];

/** Table 3, TransferCharacteristics. */
export const COLOUR_TRANSFERS = [
  { code: 1, id: 'bt709', label: 'BT.709' },
  { code: 4, id: 'bt470m', label: 'BT.470 System M (gamma 2.2)' },
  { code: 5, id: 'bt470bg', label: 'BT.470 System B, G (gamma 2.8)' },
  { code: 6, id: 'smpte170m', label: 'SMPTE ST 170 (BT.601)' },
  { code: 7, id: 'smpte240m', label: 'SMPTE ST 240' },
  { code: 8, id: 'linear', label: 'Linear' },
  { code: 9, id: 'log100', label: 'Logarithmic, 100 : 1' },
  { code: 10, id: 'log316', label: 'Logarithmic, 100 · √10 : 1' },
  { code: 11, id: 'iec61966-2-4', label: 'IEC 61966-2-4 (xvYCC)' },
  { code: 12, id: 'bt1361e', label: 'BT.1361, extended gamut' },
  { code: 13, id: 'iec61966-2-1', label: 'IEC 61966-2-1 (sRGB)' },
  { code: 14, id: 'bt2020-10', label: 'BT.2020, 10 bit' },
  { code: 15, id: 'bt2020-12', label: 'BT.2020, 12 bit' },
  { code: 16, id: 'smpte2084', label: 'SMPTE ST 2084 (PQ)' },
  { code: 17, id: 'smpte428', label: 'SMPTE ST 428-1' },
  { code: 18, id: 'arib-std-b67', label: 'ARIB STD-B67 (HLG)' },
] as const satisfies readonly CodePoint[];

/** Table 4, MatrixCoefficients. */
export const COLOUR_MATRICES = [
  { code: 0, id: 'gbr', label: 'Identity (RGB)' },
  { code: 1, id: 'bt709', label: 'BT.709' },
  { code: 4, id: 'fcc', label: 'FCC Title 47' },
  { code: 5, id: 'bt470bg', label: 'BT.470 System B, G (BT.601, 625 lines)' },
  { code: 6, id: 'smpte170m', label: 'SMPTE ST 170 (BT.601, 525 lines)' },
  { code: 7, id: 'smpte240m', label: 'SMPTE ST 240' },
  { code: 8, id: 'ycgco', label: 'YCgCo' },
  { code: 9, id: 'bt2020nc', label: 'BT.2020, non-constant luminance' },
  { code: 10, id: 'bt2020c', label: 'BT.2020, constant luminance' },
  { code: 11, id: 'smpte2085', label: 'SMPTE ST 2085' },
  { code: 12, id: 'chroma-derived-nc', label: 'Derived from chromaticity, non-constant luminance' },
  { code: 13, id: 'chroma-derived-c', label: 'Derived from chromaticity, constant luminance' },
  { code: 14, id: 'ictcp', label: 'BT.2100 ICtCp' },
] as const satisfies readonly CodePoint[];

export const CODE_POINTS = {
  primaries: COLOUR_PRIMARIES,
  transfer: COLOUR_TRANSFERS,
  matrix: COLOUR_MATRICES,
} as const satisfies Record<string, readonly CodePoint[]>;
export type CodePointTable = keyof typeof CODE_POINTS;

/** The code point of a table that has this name; undefined for `unknown`, for reserved values and for nonsense. */
export const codePoint = (table: CodePointTable, id: string | null): CodePoint | undefined =>
  (CODE_POINTS[table] as readonly CodePoint[]).find((point) => point.id === id);

/** `9, BT.2020, BT.2100`: the number as the stream has it, and what it stands for. Code point 2 says that nothing is said. */
export function wordCodePoint(table: CodePointTable, id: string | null): string {
  const point = codePoint(table, id);
  return point ? `${point.code}, ${point.label}` : id === null ? '2, not said' : id;
}
