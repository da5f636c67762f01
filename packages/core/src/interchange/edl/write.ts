import type { CutEvent, CutList } from '../../sequence';
import { equalRational, formatTimecode, type Counting } from '../../timecode';
import { MAX_EVENTS, REEL_LENGTH } from './types';

/**
 * Reel names for the list: upper case, letters, digits, `_` and `-` only, at most eight characters, one per source.
 * A name that had to be cut gets a number at its end if the cut one is taken. `AX` stands for a source without a reel.
 */
function reelNames(events: readonly CutEvent[]): Map<string, string> {
  const names = new Map<string, string>();
  const taken = new Set<string>(['AX', 'BL']);
  for (const reel of new Set(events.flatMap((event) => (event.reel === null ? [] : [event.reel])))) {
    const plain = reel.toUpperCase().replace(/[^A-Z0-9_-]/g, '') || 'REEL';
    let name = plain.slice(0, REEL_LENGTH);
    for (let n = 2; taken.has(name); n += 1) name = plain.slice(0, REEL_LENGTH - String(n).length) + n;
    taken.add(name);
    names.set(reel, name);
  }
  return names;
}

/** A comment is one line; line breaks in names would make lines of their own. */
const oneLine = (text: string): string => text.replace(/[\r\n\t]+/g, ' ').trim();

/** `M2`: the speed at which the source runs, in its frames per second of the list, as published for CMX 3600. */
const motionLine = (reel: string, counting: Counting, start: string): string =>
  `M2   ${reel.padEnd(REEL_LENGTH)}       ${(counting.rate.num / counting.rate.den).toFixed(1).padStart(5, '0')}                ${start}`;

/**
 * Writes a cut list as a CMX 3600 edit decision list, cuts only, lines ending in CR LF. Columns: event 1–3, reel 6–13,
 * channels 15–20, transition 22, then source in and out, record in and out from column 30 on.
 * Comment lines with clip name and source file follow common practice, no published source; those with asset number, marking and
 * markers are ours.
 * Throws RangeError above 999 events, which the format cannot number.
 */
export function writeEdl(list: CutList): string {
  if (list.events.length > MAX_EVENTS)
    throw new RangeError(`a CMX 3600 list holds ${MAX_EVENTS} events, and this one has ${list.events.length}`);
  const reels = reelNames(list.events);
  const mode = (counting: Counting) => `FCM: ${counting.dropFrame ? 'DROP FRAME' : 'NON-DROP FRAME'}`;
  const lines = [`TITLE: ${oneLine(list.title).slice(0, 70)}`, mode(list.counting)];
  for (const event of list.events) {
    const { counting } = list;
    const reel = event.reel === null ? 'AX' : (reels.get(event.reel) as string);
    const channels = event.hasPicture ? (event.hasSound ? 'B' : 'V') : 'A';
    const times = [
      formatTimecode(event.source.start, event.sourceCounting),
      formatTimecode(event.source.end, event.sourceCounting),
      formatTimecode(event.record.start, counting),
      formatTimecode(event.record.end, counting),
    ];
    lines.push(
      `${String(event.number).padStart(3, '0')}  ${reel.padEnd(REEL_LENGTH)} ${channels.padEnd(6)} C       ${times.join(' ')}`,
    );
    if (!equalRational(event.sourceCounting.rate, counting.rate))
      lines.push(motionLine(reel, event.sourceCounting, times[0] as string));
    if (event.sourceCounting.id !== counting.id) lines.push(`* SOURCE RATE: ${event.sourceCounting.id}`);
    if (event.clipName !== null) lines.push(`* FROM CLIP NAME: ${oneLine(event.clipName)}`);
    if (event.reel !== null && event.reel !== reel) lines.push(`* SOURCE REEL: ${oneLine(event.reel)}`);
    if (event.sourceFile !== null) lines.push(`* SOURCE FILE: ${oneLine(event.sourceFile)}`);
    if (event.assetId !== null) lines.push(`* ASSET: ${event.assetId}`);
    if (event.marking !== undefined) lines.push(`* MARKED AS: ${oneLine(event.marking)}`);
    for (const { record, name, note, colour } of event.markers ?? [])
      lines.push(
        oneLine(
          `* MARKER: ${formatTimecode(record.start, counting)} ${colour === 'none' ? '' : `${colour} `}${[name, note].filter(Boolean).join(': ')}`,
        ),
      );
  }
  return `${lines.join('\r\n')}\r\n`;
}
