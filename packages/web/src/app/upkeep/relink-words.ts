import type { Agreement, Evidence, EvidenceKind, Likeness } from '@larder/core/relink';
import type { RelinkMatch, RelinkRule, RelinkState } from '@larder/contract';
import { formatBytes, formatMoment } from '../shared/format';
import type { IconName } from '../shared/icons';

export const LIKENESS_WORDS: Readonly<Record<Likeness, string>> = {
  exact: 'Exact',
  equivalent: 'Equivalent',
  lookalike: 'Lookalike',
};

export const LIKENESS_MEANS: Readonly<Record<Likeness, string>> = {
  exact: 'The same bytes',
  equivalent: 'The same stretch of time, in another container or size, by its timecode or by what is seen and heard',
  lookalike: 'Some of it agrees, but nothing says that it is the same recording',
};

const EVIDENCE_WORDS: Readonly<Record<EvidenceKind, string>> = {
  checksum: 'Checksum',
  fingerprint: 'Fingerprint',
  size: 'Size',
  picture: 'Picture',
  sound: 'Sound',
  timecode: 'Timecode',
  duration: 'Duration',
  reel: 'Reel',
  name: 'Name',
  title: 'Name without additions',
  folder: 'Folder',
  rate: 'Rate',
  raster: 'Raster',
  channels: 'Channels',
  shot: 'Recorded',
  modified: 'Modified',
};
export const evidenceWord = (kind: EvidenceKind): string => EVIDENCE_WORDS[kind];

export const AGREEMENTS: Readonly<Record<Agreement, { icon: IconName; word: string }>> = {
  agrees: { icon: 'check', word: 'agrees' },
  disagrees: { icon: 'close', word: 'disagrees' },
  unknown: { icon: 'info', word: 'not known' },
};

export const STATE_WORDS: Readonly<Record<RelinkState, { icon: IconName; word: string }>> = {
  decide: { icon: 'info', word: 'To decide' },
  accepted: { icon: 'check', word: 'Accepted' },
  rejected: { icon: 'close', word: 'Rejected' },
  blocked: { icon: 'warning', word: 'Ruled out' },
  unfound: { icon: 'missing', word: 'Not found' },
  mended: { icon: 'check', word: 'Mended' },
  back: { icon: 'check', word: 'There again' },
};

/** What rules a file out, where that is more than that it is another. */
const BLOCK_WORDS: Readonly<Partial<Record<EvidenceKind, string>>> = {
  duration: 'what is cut or marked in the original has no place in it',
};

/** Why a candidate cannot be taken, in words; null if it can. */
export function blockedWords({ blockedBy }: RelinkMatch): string | null {
  if (blockedBy.length > 0)
    return `Ruled out: ${blockedBy.map((kind) => BLOCK_WORDS[kind] ?? `another ${EVIDENCE_WORDS[kind].toLowerCase()}`).join(', and ')}.`;
  return null;
}

/** Whether size, beginning and end are the same and yet do not tell which recording it is, since those of others are too. */
export function hasSharedEnds({ evidence, likeness }: RelinkMatch): boolean {
  const count = (agreement: Agreement, ...kinds: EvidenceKind[]): number =>
    evidence.filter((each) => each.agreement === agreement && kinds.includes(each.kind)).length;
  const isAlike = count('agrees', 'fingerprint', 'size') === 2;
  return likeness !== 'exact' && isAlike && count('disagrees', 'checksum', 'timecode', 'duration', 'rate') === 0;
}

export function percent({ probability }: Pick<RelinkMatch, 'probability'>): string {
  const value = probability * 100;
  // Nothing that could be otherwise is called certain.
  return value > 99.9 ? '> 99.9 %' : `${value.toFixed(value < 10 || value > 99 ? 1 : 0)} %`;
}

/** What one side of a piece of evidence says, for reading. */
export function evidenceValue(kind: EvidenceKind, text: string | null): string {
  if (text === null) return '–';
  if (kind === 'picture' || kind === 'sound') return `differs by ${text} %; what is not alike, by some 50 %`;
  if (kind === 'size') return `${formatBytes(Number(text))} (${text})`;
  if (kind === 'modified' || kind === 'shot') return formatMoment(Date.parse(text));
  return kind === 'fingerprint' ? `${text.slice(0, 12)}…` : kind === 'duration' ? `${text} frames` : text;
}

/** What a rule does to names, in words; empty where they are the same. */
export function renames({ before, behind, extension }: RelinkRule): string {
  return [
    ...(extension ? [`.${extension.from} became .${extension.to}`] : []),
    ...(before ? [`“${before}” was put before the names`] : []),
    ...(behind ? [`“${behind}” was put behind them`] : []),
  ].join(', ');
}

/** What was found when a file was opened to mend its link. */
export function verifiedWords(verified: readonly Evidence[]): string {
  const named = (agreement: Agreement) =>
    verified.filter((each) => each.agreement === agreement).map(({ kind }) => EVIDENCE_WORDS[kind].toLowerCase());
  const [same, other] = [named('agrees'), named('disagrees')];
  return [
    'It opens',
    ...(same.length > 0 ? [`the same ${same.join(', ')}`] : []),
    ...(other.length > 0 ? [`another ${other.join(', ')}`] : []),
  ].join('; ');
}
