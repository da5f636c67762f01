import { parseText, parseVTTTimestamp, tokenizeVTTCue, type VTTCue, type VTTNode } from 'media-captions';
import { isTtml, readTtml } from './ttml';
import type { Cue, TimedText, TimedTextFormat, TimedTextIssue } from './types';

const TIMING = /^\s*([\d:.,]+)\s*-->\s*([\d:.,]+)/;

/** WebVTT begins with its name; SRT has no beginning of its own, and is known by how it writes the thousandths. */
function formatOf(text: string): Exclude<TimedTextFormat, 'ttml'> | null {
  if (/^WEBVTT(?=\s|$)/.test(text)) return 'vtt';
  return /^\s*\d{1,3}:\d{2}:\d{2},\d{1,3}\s*-->/m.test(text) ? 'srt' : null;
}

/**
 * Reads WebVTT (W3C Candidate Recommendation of 4 April 2019), SubRip text, which has no published standard, or TTML. Null if it is
 * none of them. Styles, regions, comments and settings of how a cue is shown are passed over.
 */
export async function readTimedText(source: string): Promise<TimedText | null> {
  const text = source.replace(/^\ufeff/, '').replace(/\r\n?/g, '\n');
  if (isTtml(text)) return readTtml(text);
  const format = formatOf(text);
  if (!format) return null;
  const { cues } = await parseText(text, { type: format, strict: false, errors: false });
  // Most files number their cues; some of those may be missing.
  const counted = cues.every(({ id }) => /^\s*\d*\s*$/.test(id));
  return {
    format,
    cues: cues
      .filter(({ startTime, endTime }) => startTime < endTime)
      .map((cue): Cue => ({
        startMs: Math.round(cue.startTime * 1000),
        endMs: Math.round(cue.endTime * 1000),
        id: counted ? '' : cue.id.trim(),
        ...(format === 'vtt' ? spokenOf(cue) : { text: withoutTags(cue.text), voice: '', classes: [] }),
      })),
    issues: issuesOf(text),
  };
}

/** Lines of times that are none; the reader passes over their cues in silence. */
function issuesOf(text: string): TimedTextIssue[] {
  return text.split('\n').flatMap((line, index): TimedTextIssue[] => {
    if (!line.includes('-->')) return [];
    const [start, end] = (TIMING.exec(line)?.slice(1) ?? []).map((time) => parseVTTTimestamp(time.replace(',', '.')));
    if (start == null || end == null) return [{ code: 'time', line: index + 1 }];
    return start < end ? [] : [{ code: 'backwards', line: index + 1 }];
  });
}

function spokenOf(cue: VTTCue): Pick<Cue, 'text' | 'voice' | 'classes'> {
  const nodes = tokenizeVTTCue(cue);
  const voices = new Set<string>();
  const wording = (node: VTTNode): string => {
    if (node.type === 'text') return node.data;
    if (node.type === 'v') voices.add(node.voice);
    return node.children.map(wording).join('');
  };
  const text = nodes.map(wording).join('');
  const [first] = nodes;
  const classes =
    first && first.type !== 'text' ? [...(first.class ?? '').split(/[. ]/), first.color ?? ''].filter(Boolean) : [];
  return { text: lines(text), voice: [...voices].join(', '), classes };
}

/** What people write into SRT: tags of HTML, and places in braces. Other angle brackets are text. */
const withoutTags = (text: string): string =>
  lines(text.replace(/<\/?(?:[biu]|font)(?:\s[^<>]*)?>/gi, '').replace(/\{\\[^{}]*\}/g, ''));

/** A line of nothing but a hard space stands for an empty one, which would end the cue. */
const lines = (text: string): string => text.replace(/^\u00a0$/gm, '');
