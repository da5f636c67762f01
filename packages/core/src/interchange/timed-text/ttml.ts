import { XMLParser } from 'fast-xml-parser';
import { clock } from './clock';
import type { Cue, TimedText, TimedTextIssue } from './types';

/** An element with what is in it, in order; a text has only `#text`. */
type Node = Readonly<Record<string, unknown>>;
type Attributes = Readonly<Record<string, string>>;

const ATTRIBUTES = ':@';
/** Spans within spans; a document that nests deeper was not made to be read. */
const DEEPEST = 40;

/**
 * Whether a text is a TTML document, whatever is wrong in it. A comment ends at its first end: were it free to go on to a later one, a
 * text of nothing but comments could be cut into them in more ways than can be tried.
 */
export const isTtml = (text: string): boolean =>
  /^\s*(?:<\?xml[^>]*\?>\s*)?(?:<!--(?:(?!-->)[\s\S])*-->\s*)*<(?:\w+:)?tt[\s>]/.test(text);

/**
 * Reads Timed Text Markup Language (W3C Recommendation TTML2 of 8 November 2018; from memory): paragraphs, and spans with times of
 * their own, each a cue. Who speaks is told by `ttm:agent`. Styles, regions, images and animation are passed over. Null if it is no
 * such document; one with a document type is none, since its entities could grow without bound.
 */
export function readTtml(text: string): TimedText | null {
  if (!isTtml(text) || /<!DOCTYPE/i.test(text)) return null;
  let document: Node[];
  try {
    document = new XMLParser({
      ...{ preserveOrder: true, ignoreAttributes: false, attributeNamePrefix: '', removeNSPrefix: true },
      ...{ parseTagValue: false, parseAttributeValue: false, trimValues: false, htmlEntities: true },
    }).parse(text) as Node[];
  } catch {
    return null;
  }
  const root = document.find((node) => nameOf(node) === 'tt');
  if (!root) return null;
  const reader = new Reader(text, attributesOf(root), agentsIn(root));
  reader.read(root);
  return { format: 'ttml', cues: reader.cues, issues: reader.issues };
}

const nameOf = (node: Node): string => Object.keys(node).find((key) => key !== ATTRIBUTES) ?? '';
const attributesOf = (node: Node): Attributes => (node[ATTRIBUTES] ?? {}) as Attributes;
function childrenOf(node: Node): readonly Node[] {
  const children = node[nameOf(node)];
  return Array.isArray(children) ? (children as Node[]) : [];
}

/** By their ids, the names of those who speak. */
function agentsIn(root: Node): ReadonlyMap<string, string> {
  const agents = new Map<string, string>();
  const look = (node: Node, depth: number): void => {
    const { id } = attributesOf(node);
    if (nameOf(node) === 'agent' && id !== undefined) agents.set(id, wordsOf(node, 0).replace(/\s+/g, ' ').trim());
    else if (depth < DEEPEST) childrenOf(node).forEach((child) => look(child, depth + 1));
  };
  const head = childrenOf(root).find((node) => nameOf(node) === 'head');
  if (head) look(head, 0);
  return agents;
}

interface Span {
  readonly startMs: number;
  /** Infinity where nothing says when it ends. */
  readonly endMs: number;
}

class Reader {
  readonly cues: Cue[] = [];
  readonly issues: TimedTextIssue[] = [];
  private readonly clock: TimeReader;
  /** The lines on which paragraphs begin. */
  private readonly lines: number[];
  private paragraphs = 0;

  constructor(
    text: string,
    root: Attributes,
    private readonly agents: ReadonlyMap<string, string>,
  ) {
    this.clock = timeReader(root);
    this.lines = [...text.matchAll(/\n|<(?:\w+:)?p(?=[\s/>])/g)].reduce<{ line: number; at: number[] }>(
      (found, [sign]) => {
        if (sign === '\n') found.line += 1;
        else found.at.push(found.line);
        return found;
      },
      { line: 1, at: [] },
    ).at;
  }

  read(root: Node): void {
    for (const body of childrenOf(root))
      if (nameOf(body) === 'body') this.block(body, { startMs: 0, endMs: Infinity }, '', 0);
  }

  /** A body, a division or a paragraph, whose times are told from the beginning of what it is in. */
  private block(node: Node, within: Span, agent: string, depth: number): Span {
    const isParagraph = nameOf(node) === 'p';
    if (isParagraph) this.paragraphs += 1;
    const attributes = attributesOf(node);
    const voice = attributes['agent'] ?? agent;
    const span = this.spanOf(attributes, within);
    if (!span) this.issue('time');
    else if (isParagraph) this.paragraph(node, span, voice);
    else if (depth < DEEPEST) {
      let before: Span = { startMs: span.startMs, endMs: span.startMs };
      for (const child of childrenOf(node)) {
        if (!['div', 'p'].includes(nameOf(child))) continue;
        // One after the other, or all from the beginning.
        const from = attributes['timeContainer'] === 'seq' ? before.endMs : span.startMs;
        before = this.block(child, { startMs: from, endMs: span.endMs }, voice, depth + 1);
      }
    }
    return span ?? within;
  }

  /** Null where a time cannot be read. */
  private spanOf({ begin, end, dur }: Attributes, { startMs, endMs }: Span): Span | null {
    const [from, to, length] = [begin, end, dur].map((time) => (time === undefined ? undefined : this.clock(time)));
    if (from === null || to === null || length === null) return null;
    const start = startMs + (from ?? 0);
    return {
      startMs: start,
      endMs: Math.min(
        endMs,
        to === undefined ? Infinity : startMs + to,
        length === undefined ? Infinity : start + length,
      ),
    };
  }

  private paragraph(node: Node, span: Span, agent: string): void {
    const timed: { span: Span | null; node: Node }[] = [];
    const look = (of: Node, within: Span, depth: number): void => {
      for (const child of childrenOf(of)) {
        const attributes = attributesOf(child);
        const own = this.spanOf(attributes, within);
        const isTimed = ['begin', 'end', 'dur'].some((time) => attributes[time] !== undefined);
        if (nameOf(child) === 'span' && isTimed) timed.push({ span: own, node: child });
        else if (depth < DEEPEST) look(child, own ?? within, depth + 1);
      }
    };
    look(node, span, 0);
    if (timed.length === 0) return this.cue(span, node, agent);
    for (const each of timed) {
      const voice = attributesOf(each.node)['agent'] ?? agent;
      if (each.span) this.cue(each.span, each.node, voice);
      else this.issue('time');
    }
  }

  private cue({ startMs, endMs }: Span, node: Node, agent: string): void {
    const text = wordsOf(node, 0)
      .split('\n')
      .map((line) => line.replace(/\s+/g, ' ').trim())
      .join('\n')
      .trim();
    if (text === '') return;
    if (endMs === Infinity) return this.issue('time');
    if (endMs <= startMs) return this.issue('backwards');
    // An agent may be several, told by their ids.
    const voice = agent
      .split(/\s+/)
      .filter(Boolean)
      .map((each) => this.agents.get(each) || each)
      .join(', ');
    const [start, end] = [Math.round(startMs), Math.round(endMs)];
    // Identifiers are for programs here, and say nothing.
    this.cues.push({ startMs: start, endMs: Math.max(end, start + 1), id: '', text, voice, classes: [] });
  }

  private issue(code: TimedTextIssue['code']): void {
    this.issues.push({ code, line: this.lines[this.paragraphs - 1] ?? 1 });
  }
}

/** The words of an element; breaks in the source are gaps, and `br` is a break. */
function wordsOf(node: Node, depth: number): string {
  const own = node['#text'];
  if (typeof own === 'string') return own.replace(/\s+/g, ' ');
  const name = nameOf(node);
  if (name === 'br') return '\n';
  if (name === 'metadata' || depth > DEEPEST) return '';
  return childrenOf(node)
    .map((child) => wordsOf(child, depth + 1))
    .join('');
}

/** A time in milliseconds; null if it is none. */
type TimeReader = (text: string) => number | null;

const CLOCK = /^(\d{2,}):([0-5]\d):([0-5]\d|60)(?:(\.\d+)|:(\d{2,})(?:\.(\d+))?)?$/;
const OFFSET = /^(\d+(?:\.\d+)?)(h|ms|m|s|f|t)$/;

/** Reads times as the root of a document says that frames and ticks are counted. */
function timeReader(root: Attributes): TimeReader {
  const positive = (text: string | undefined, otherwise: number): number =>
    Number(text) > 0 ? Number(text) : otherwise;
  const [times = 1, by = 1] = (root['frameRateMultiplier'] ?? '').split(/[\s:]+/).map((part) => positive(part, 1));
  const frameRate = (positive(root['frameRate'], 30) * times) / by;
  const subFrames = positive(root['subFrameRate'], 1);
  const tickRate = positive(root['tickRate'], root['frameRate'] === undefined ? 1 : frameRate * subFrames);
  const metrics: Readonly<Record<string, number>> = {
    ...{ h: 3_600_000, m: 60_000, s: 1000, ms: 1 },
    ...{ f: 1000 / frameRate, t: 1000 / tickRate },
  };
  return (text) => {
    const [, count, metric] = OFFSET.exec(text.trim()) ?? [];
    if (count !== undefined && metric !== undefined) return Number(count) * (metrics[metric] as number);
    const parts = CLOCK.exec(text.trim());
    if (!parts) return null;
    const [, hours, minutes, seconds, fraction = '0', frames = '0', sub = '0'] = parts;
    const whole = (Number(hours) * 60 + Number(minutes)) * 60 + Number(seconds);
    return (whole + Number(fraction) + (Number(frames) + Number(sub) / subFrames) / frameRate) * 1000;
  };
}

const escaped = (text: string): string =>
  text
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replaceAll('"', '&quot;')
    // What XML has no sign for.
    .replace(/[^\P{Cc}\t\n\r]|[\ufffe\uffff]/gu, '');

/** Cues as a TTML document, with who speaks as agents; identifiers and classes are left out. */
export function writeTtml(cues: readonly Cue[]): string {
  const voices = [...new Set(cues.map(({ voice }) => voice).filter(Boolean))];
  const agents = voices.map(
    (voice, at) =>
      `      <ttm:agent xml:id="agent${at + 1}" type="person"><ttm:name type="full">${escaped(voice)}</ttm:name></ttm:agent>\n`,
  );
  const paragraphs = cues.map(({ startMs, endMs, text, voice }) => {
    const agent = voice === '' ? '' : ` ttm:agent="agent${voices.indexOf(voice) + 1}"`;
    const words = escaped(text).split('\n').join('<br/>');
    return `      <p begin="${clock(startMs, '.')}" end="${clock(endMs, '.')}"${agent}>${words}</p>\n`;
  });
  return `<?xml version="1.0" encoding="UTF-8"?>
<tt xmlns="http://www.w3.org/ns/ttml" xmlns:ttm="http://www.w3.org/ns/ttml#metadata" xml:lang="">
  <head>
    <metadata>
${agents.join('')}    </metadata>
  </head>
  <body>
    <div>
${paragraphs.join('')}    </div>
  </body>
</tt>
`;
}
