/** Programme loudness by ITU-R BS.1770 and EBU R 128; null where all of it is below the gate. */
export interface LoudnessFacts {
  readonly integratedLufs: number | null;
  /** EBU Tech 3342. */
  readonly rangeLu: number | null;
  readonly truePeakDb: number | null;
}

/** Below −70 LUFS nothing is measured: the absolute gate of BS.1770. */
const GATE_LUFS = -70;

/** Reads the summary that ffmpeg's `ebur128` prints at its end; null if there is none among the lines. */
export function readLoudness(lines: readonly string[]): LoudnessFacts | null {
  const value = (label: string, unit: string): number | null => {
    const pattern = new RegExp(`^\\s*${label}:\\s+(-?[\\d.]+|-inf|nan) ${unit}\\s*$`);
    const found = lines.flatMap((line) => pattern.exec(line)?.[1] ?? []).at(-1);
    const number = Number(found);
    return found !== undefined && Number.isFinite(number) ? number : null;
  };
  const integrated = value('I', 'LUFS');
  if (integrated === null) return null;
  const silent = integrated <= GATE_LUFS;
  return {
    integratedLufs: silent ? null : integrated,
    rangeLu: silent ? null : value('LRA', 'LU'),
    truePeakDb: value('Peak', 'dBFS'),
  };
}
