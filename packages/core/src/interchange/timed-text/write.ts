import type { Cue, TimedTextFormat } from './types';

/** Hours, minutes, seconds and thousandths. */
export function clock(ms: number, point: '.' | ','): string {
  const two = (value: number) => String(value).padStart(2, '0');
  const seconds = Math.floor(ms / 1000);
  const [hours, minutes] = [Math.floor(seconds / 3600), Math.floor(seconds / 60) % 60];
  return `${two(hours)}:${two(minutes)}:${two(seconds % 60)}${point}${String(ms % 1000).padStart(3, '0')}`;
}

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

/** Cues as WebVTT or as SubRip text; what SRT has no place for, identifiers and classes, is left out there. */
export const writeTimedText = (cues: readonly Cue[], format: TimedTextFormat): string =>
  format === 'vtt' ? `WEBVTT\n\n${cues.map(vttCue).join('\n')}` : cues.map(srtCue).join('\n');
