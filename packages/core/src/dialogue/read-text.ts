import type { Cue } from '../interchange/timed-text';
import { readTable } from '../interchange/table';
import { framesToSeconds, parseTimecode, type Counting } from '../timecode';

/** What somebody says, as it is written down; when, where that is written too. */
export interface WrittenTurn {
  readonly startMs: number | null;
  readonly endMs: number | null;
  /** Empty where nobody says. */
  readonly speaker: string;
  readonly text: string;
}

/** What is wrong with a transcript. Lines and rows count from 1. */
export type WrittenIssue =
  | { readonly code: 'no-text-column'; readonly heading: readonly string[] }
  | { readonly code: 'row-time'; readonly row: number; readonly value: string };

export const wordWrittenIssue = (issue: WrittenIssue): string => {
  switch (issue.code) {
    case 'no-text-column':
      return `None of the columns “${issue.heading.slice(0, 8).join('”, “')}” has what is said. Call one of them Said or Text.`;
    case 'row-time':
      return `Row ${issue.row}: “${issue.value}” is no time. It was put after the one before.`;
    default:
      return issue satisfies never;
  }
};

export interface WrittenTranscript {
  readonly turns: readonly WrittenTurn[];
  readonly issues: readonly WrittenIssue[];
}

/** The moments of an asset as people write them. */
export interface WrittenTimes {
  /** Null where it has no timecode. */
  readonly counting: Counting | null;
  readonly startFrame: number;
}

/** What says so much and no more is a name, and who speaks; a sentence with a colon in it mostly is longer. */
const NAME = /^(\p{Lu}[\p{L}\p{M}\p{N}.'’-]*(?: [\p{L}\p{N}][\p{L}\p{M}\p{N}.'’-]*){0,3}):[ \t]+(?=\S)/u;
/** As long as a name may be that is given to a passage. */
const LONGEST_NAME = 80;

/** `[00:01:02:03]` or `(1:02)`; without brackets it has seconds, as a sentence may begin with the time of day. */
const TIME =
  /^(?:[[(](\d{1,2}(?::\d{1,2}){1,3}(?:[;:.,]\d{1,3})?)[\])]|(\d{1,2}:\d{2}:\d{2}(?:[;:.,]\d{1,3})?))(?:[ \t]*[-–][ \t]+|[ \t]+|$)/;

/**
 * A time as people write it, in milliseconds from the beginning: timecode (`10:01:02:03`), or hours, minutes, seconds and thousandths
 * (`1:02`, `0:01:02.500`). What is not before the asset's own timecode begins is taken to be counted with it. Null if it is none.
 */
export function readTime(text: string, { counting, startFrame }: WrittenTimes): number | null {
  const clean = text.trim();
  const startMs = counting ? msOf(startFrame, counting) : 0;
  const fromStart = (ms: number): number => (ms >= startMs ? ms - startMs : ms);
  if (counting && /^\d{1,2}:\d{2}:\d{2}[:;]\d{2}$/.test(clean)) {
    const read = parseTimecode(clean, counting);
    return 'frames' in read ? Math.round(fromStart(msOf(read.frames, counting))) : null;
  }
  const match = /^(?:(\d{1,2}):)?(\d{1,2}):(\d{1,2})(?:[.,](\d{1,3}))?$/.exec(clean);
  if (!match) return null;
  const [hours, minutes, seconds] = [match[1] ?? 0, match[2], match[3]].map(Number) as [number, number, number];
  if (seconds > 59 || (match[1] !== undefined && minutes > 59)) return null;
  const ms = ((hours * 60 + minutes) * 60 + seconds) * 1000 + Number((match[4] ?? '').padEnd(3, '0'));
  return Math.round(fromStart(ms));
}

const msOf = (frames: number, { rate }: Counting): number => {
  const { num, den } = framesToSeconds(frames, rate);
  return (num / den) * 1000;
};

/** Reads a transcript as it is typed: paragraphs, which may begin with a time and with who speaks (`[10:01:02:03] Wren: …`). */
export function readWrittenText(whole: string, times: WrittenTimes): WrittenTranscript {
  const turns: WrittenTurn[] = [];
  // A line that says neither when nor who goes on with the one before; an empty one ends a paragraph.
  let goesOn = false;
  for (const line of whole.replace(/^\uFEFF/, '').split(/\r\n?|\n/)) {
    const written = line.trim();
    if (written === '') {
      goesOn = false;
      continue;
    }
    const timed = TIME.exec(written);
    const startMs = timed ? readTime((timed[1] ?? timed[2]) as string, times) : null;
    const rest = startMs === null ? written : written.slice((timed as RegExpExecArray)[0].length);
    const found = NAME.exec(rest);
    const named = (found?.[1]?.length ?? 0) > LONGEST_NAME ? null : found;
    const text = named ? rest.slice(named[0].length) : rest;
    const before = turns.at(-1);
    if (goesOn && before && startMs === null && !named)
      turns[turns.length - 1] = { ...before, text: `${before.text} ${text}`.trim() };
    else turns.push({ startMs, endMs: null, speaker: named?.[1] ?? (goesOn ? (before?.speaker ?? '') : ''), text });
    goesOn = true;
  }
  return { turns: turns.filter(({ text }) => text !== ''), issues: [] };
}

/** The names under which columns say it; common practice, no source, and those that `passageRows` writes. */
const COLUMNS = {
  start: ['start', 'in', 'tc', 'tc in', 'timecode', 'time', 'start time', 'from'],
  end: ['end', 'out', 'tc out', 'end time', 'to'],
  speaker: ['speaker', 'name', 'who', 'voice', 'person'],
  text: ['said', 'text', 'transcript', 'dialogue', 'words', 'line'],
} as const;

/** Whether a text has the heading of a table with what is said. */
export const isWrittenTable = (text: string): boolean => {
  const { heading } = readTable(text.slice(0, 4096)).table;
  return (
    heading.length > 1 &&
    columnIn(heading, 'text') >= 0 &&
    (columnIn(heading, 'start') >= 0 || columnIn(heading, 'speaker') >= 0)
  );
};

const columnIn = (heading: readonly string[], which: keyof typeof COLUMNS): number =>
  heading.findIndex((title) => (COLUMNS[which] as readonly string[]).includes(title.toLowerCase().trim()));

/** Reads a transcript as a table: a row for each thing that is said, with or without when it begins and ends and who says it. */
export function readWrittenTable(whole: string, times: WrittenTimes): WrittenTranscript {
  const { table } = readTable(whole);
  const [start, end, speaker, text] = (['start', 'end', 'speaker', 'text'] as const).map((which) =>
    columnIn(table.heading, which),
  ) as [number, number, number, number];
  if (text < 0) return { turns: [], issues: [{ code: 'no-text-column', heading: table.heading }] };
  const issues: WrittenIssue[] = [];
  const turns = table.rows.flatMap((row, at): WrittenTurn[] => {
    const said = (row[text] ?? '').trim();
    if (said === '') return [];
    const timeIn = (column: number): number | null => {
      const value = (row[column] ?? '').trim();
      if (value === '') return null;
      const ms = readTime(value, times);
      if (ms === null) issues.push({ code: 'row-time', row: table.numbers[at] as number, value });
      return ms;
    };
    return [
      {
        startMs: timeIn(start),
        endMs: timeIn(end),
        speaker: (row[speaker] ?? '').trim().slice(0, LONGEST_NAME),
        text: said,
      },
    ];
  });
  return { turns, issues };
}

/** Letters that people say in a second, and the least that anything takes; about 150 words a minute, common practice, no source. */
const [MS_PER_LETTER, LEAST_MS] = [70, 500] as const;

/**
 * What is written with times, as captions: each goes on until it says that it ends, or as long as it takes to say, or until the next
 * begins. What has no time of its own follows the one before. Null where nothing has any time.
 */
export function cuesOfTurns(turns: readonly WrittenTurn[]): Cue[] | null {
  if (turns.every(({ startMs }) => startMs === null)) return null;
  const cues: Cue[] = [];
  let at = 0;
  turns.forEach(({ endMs, speaker, startMs, text }, n) => {
    const from = startMs ?? at;
    const long = Math.max(LEAST_MS, text.length * MS_PER_LETTER);
    const next = turns[n + 1]?.startMs ?? Infinity;
    const to =
      endMs !== null && endMs > from ? endMs : Math.max(from + 1, Math.min(from + long, next > from ? next : Infinity));
    cues.push({ startMs: from, endMs: to, id: '', text, voice: speaker, classes: [] });
    at = to;
  });
  return cues;
}
