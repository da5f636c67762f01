export const TIMED_TEXT_FORMATS = ['vtt', 'srt', 'ttml'] as const;
export type TimedTextFormat = (typeof TIMED_TEXT_FORMATS)[number];

/** Their media types; that of SRT is common practice, no source. */
export const TIMED_TEXT_TYPES: Readonly<Record<TimedTextFormat, string>> = {
  vtt: 'text/vtt; charset=utf-8',
  srt: 'application/x-subrip; charset=utf-8',
  ttml: 'application/ttml+xml; charset=utf-8',
};

/** A text with its time, in whole milliseconds from the beginning; `endMs` is exclusive. */
export interface Cue {
  readonly startMs: number;
  readonly endMs: number;
  /** Its identifier, empty if it has none or if all are but counted. */
  readonly id: string;
  /** Without tags; lines are parted by `\n`. */
  readonly text: string;
  /** Who says it, empty if that is not told. */
  readonly voice: string;
  /** The classes of the outermost span, colours among them. */
  readonly classes: readonly string[];
}

/** What is wrong with a line; its cue is left out. Lines count from 1. */
export interface TimedTextIssue {
  readonly code: 'time' | 'backwards';
  readonly line: number;
}

const ISSUE_WORDS: Readonly<Record<TimedTextIssue['code'], string>> = {
  time: 'has no times that can be read',
  backwards: 'ends before it begins',
};
export const wordTimedTextIssue = ({ code, line }: TimedTextIssue): string => `Line ${line} ${ISSUE_WORDS[code]}.`;

export interface TimedText {
  readonly format: TimedTextFormat;
  readonly cues: readonly Cue[];
  readonly issues: readonly TimedTextIssue[];
}
