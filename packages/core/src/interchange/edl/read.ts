import type { CutEvent, CutList } from '../../sequence';
import { countingById, COUNTINGS, parseTimecode, type Counting, type FrameRange } from '../../timecode';
import type { EdlIssue } from './types';

export interface EdlResult {
  readonly list: CutList;
  readonly issues: readonly EdlIssue[];
}

const TIME = '(\\d{1,2}:\\d{2}:\\d{2}[:;.]\\d{2,3})';
const EVENT = new RegExp(
  `^(\\d{1,6})\\s+(\\S+)\\s+(\\S+)\\s+(C|D|W\\d{1,3}|KB|K|KO)(?:\\s+(\\d{1,4}))?\\s+${TIME}\\s+${TIME}\\s+${TIME}\\s+${TIME}\\s*$`,
);

interface RawEvent {
  readonly line: number;
  readonly number: number;
  readonly reel: string;
  readonly channels: string;
  readonly times: readonly [string, string, string, string];
  readonly notes: Map<string, string>;
  speed: number | null;
}

/** A list that counts with drop-frame is so by its `FCM:` line; a semicolon before the frames says the same. */
function dropped(counting: Counting): Counting {
  return (
    COUNTINGS.find(
      (each) => each.nominal === counting.nominal && each.rate.num === counting.rate.num && each.dropFrame,
    ) ?? counting
  );
}

function collect(text: string, issues: EdlIssue[]): { title: string; dropFrame: boolean; events: RawEvent[] } {
  const events: RawEvent[] = [];
  let [title, dropFrame] = ['', false];
  text.split(/\r\n|\n|\r/).forEach((raw, index) => {
    const line = raw.trim();
    const current = events.at(-1);
    const [, key, value] = /^(TITLE|FCM|\*\s*[A-Z][A-Z ]*?)\s*:\s*(.*)$/.exec(line) ?? [];
    const motion = /^M2\s+\S+\s+(-?\d+(?:\.\d+)?)/.exec(line);
    const event = EVENT.exec(line);
    if (line === '' || line.startsWith('>>>')) return;
    if (key === 'TITLE') title = value ?? '';
    else if (key === 'FCM') dropFrame = events.length === 0 ? /^DROP/.test(value ?? '') : dropFrame;
    else if (key && current) current.notes.set(key.replace(/^\*\s*/, ''), value ?? '');
    else if (line.startsWith('*') || key) return;
    else if (motion && current) current.speed = Number(motion[1]);
    else if (event) {
      if (event[4] !== 'C')
        issues.push({ code: 'transition-ignored', line: index + 1, transition: event[4] as string });
      events.push({
        line: index + 1,
        number: Number(event[1]),
        reel: event[2] as string,
        channels: event[3] as string,
        times: event.slice(6, 10) as unknown as RawEvent['times'],
        notes: new Map(),
        speed: null,
      });
    } else issues.push({ code: 'not-an-event', line: index + 1, text: line.slice(0, 80) });
  });
  return { title, dropFrame: dropFrame || events.some(({ times }) => times[2].includes(';')), events };
}

function sourceCountingOf(raw: RawEvent, list: Counting): Counting {
  const named = countingById(raw.notes.get('SOURCE RATE') ?? '');
  if (named) return named;
  const near =
    raw.speed === null
      ? undefined
      : COUNTINGS.find((each) => Math.abs(each.rate.num / each.rate.den - (raw.speed as number)) < 0.06);
  const base = near ?? list;
  return raw.times[0].includes(';') ? dropped(base) : base;
}

/**
 * Reads a CMX 3600 edit decision list. The format does not carry a rate, so the caller names it; drop-frame is read from the
 * list. All issues are collected; events that cannot be read are left out and named. Transitions are read as cuts.
 */
export function readEdl(text: string, rate: Counting): EdlResult {
  const issues: EdlIssue[] = [];
  const { title, dropFrame, events: raws } = collect(text.replace(/^\uFEFF/, ''), issues);
  const counting = dropFrame ? dropped(rate) : rate;

  const range = (raw: RawEvent, what: 'source' | 'record', at: Counting): FrameRange | null => {
    const [start, end] = (what === 'source' ? raw.times.slice(0, 2) : raw.times.slice(2)).map((time) => {
      const result = parseTimecode(time, at);
      if ('issue' in result) issues.push({ code: 'bad-timecode', line: raw.line, text: time });
      return 'frames' in result ? result.frames : null;
    });
    if (start == null || end == null) return null;
    if (end <= start) issues.push({ code: 'out-before-in', line: raw.line, what });
    return end > start ? { start, end } : null;
  };

  const events = raws.flatMap((raw): CutEvent[] => {
    const sourceCounting = sourceCountingOf(raw, counting);
    const source = range(raw, 'source', sourceCounting);
    const record = range(raw, 'record', counting);
    if (!source || !record) return [];
    const asset = raw.notes.get('ASSET');
    // AX in the column says that there is no reel; a reel may still be called so.
    const reel = raw.notes.get('SOURCE REEL') ?? (raw.reel === 'AX' ? null : raw.reel);
    return [
      {
        number: raw.number,
        reel,
        clipName: raw.notes.get('FROM CLIP NAME') ?? null,
        sourceFile: raw.notes.get('SOURCE FILE') ?? null,
        assetId: asset !== undefined && /^\d{1,15}$/.test(asset) ? Number(asset) : null,
        hasPicture: /^(V|B|AA\/V|.*\/V)/.test(raw.channels),
        hasSound: /^(A|B)/.test(raw.channels),
        source,
        sourceCounting,
        record,
      },
    ];
  });
  if (raws.length === 0) issues.push({ code: 'no-events', line: 1 });
  return { list: { title, counting, events }, issues };
}
