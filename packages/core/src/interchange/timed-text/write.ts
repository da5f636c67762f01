import { clock } from './clock';
import { writeTtml } from './ttml';
import type { Cue, TimedTextFormat } from './types';

/** An empty line would end the cue. */
const HARD_SPACE = '\u00a0';
const kept = (text: string): string =>
  text
    .split(/\r\n?|\n/)
    .map((line) => (line.trim() === '' ? HARD_SPACE : line))
    .join('\n');

const escaped = (text: string): string =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll(HARD_SPACE, '&nbsp;');

const arrowless = (text: string): string => text.replaceAll('-->', '->');

function vttCue({ id, startMs, endMs, text, voice, classes }: Cue): string {
  const inner = escaped(kept(text));
  const spoken = voice ? `<v ${escaped(voice)}>${inner}</v>` : inner;
  const words = classes.length > 0 ? `<c.${classes.join('.')}>${spoken}</c>` : spoken;
  return `${id ? `${arrowless(id).replace(/\s+/g, ' ')}\n` : ''}${clock(startMs, '.')} --> ${clock(endMs, '.')}\n${words}\n`;
}

const srtCue = ({ startMs, endMs, text, voice }: Cue, index: number): string =>
  `${index + 1}\n${clock(startMs, ',')} --> ${clock(endMs, ',')}\n${voice ? `${voice}: ` : ''}${arrowless(kept(text))}\n`;

const WRITERS: Readonly<Record<TimedTextFormat, (cues: readonly Cue[]) => string>> = {
  vtt: (cues) => `WEBVTT\n\n${cues.map(vttCue).join('\n')}`,
  srt: (cues) => cues.map(srtCue).join('\n'),
  ttml: writeTtml,
};

/** Cues as WebVTT, SubRip text or TTML; what a form has no place for, identifiers and classes in the last two, is left out there. */
export const writeTimedText = (cues: readonly Cue[], format: TimedTextFormat): string => WRITERS[format](cues);
