import type { OtherWord, SpokenWord } from './transcript';

/** A word that may have been said in a stretch of time, in seconds, and how likely that is. */
interface Link {
  readonly text: string;
  readonly from: number;
  readonly to: number;
  readonly share: number;
}

export interface Lattice {
  readonly links: readonly Link[];
}

/** A word of the likeliest path, in seconds. */
export interface HeardSegment {
  readonly text: string;
  readonly from: number;
  readonly to: number;
}

/** What is no word: silence, noise, and where the sound begins and ends. */
const isFiller = (text: string): boolean => /^(?:[<[!+].*|)$/.test(text);
/** Ways to say a word are told apart by a number in the dictionary. */
const withoutWay = (text: string): string => text.replace(/\(\d+\)$/, '');

const NODE = /^I=(\d+)\s+t=([\d.]+)\s+W=(\S+)/;
const LINK = /^J=\d+\s+S=(\d+)\s+E=(\d+)(?:\s.*)?\sp=([\d.eE+-]+)/;

/**
 * Reads a word lattice in the Standard Lattice Format (The HTK Book, version 3.4, chapter 20; from memory), with words on nodes,
 * where they begin, and posteriors on links. Lines that are no node and no link are passed over.
 */
export function readLattice(text: string): Lattice {
  const nodes = new Map<string, { readonly text: string; readonly at: number }>();
  const links: Link[] = [];
  for (const line of text.split('\n')) {
    const [, id, at, word] = NODE.exec(line) ?? [];
    if (id !== undefined) nodes.set(id, { text: withoutWay(word ?? ''), at: Number(at) });
    const [, from, to, share] = LINK.exec(line) ?? [];
    const [start, end] = [nodes.get(from ?? ''), nodes.get(to ?? '')];
    if (start && end && !isFiller(start.text))
      links.push({ text: start.text, from: start.at, to: end.at, share: Number(share) });
  }
  return { links };
}

/** Numbers around the words of a line: frames of a hundredth of a second. */
const FRAMES = 100;

/**
 * Reads a line of the recogniser’s likeliest path: an identifier, scores, then before each word the frame at which it begins and
 * two scores, and at the end the last frame. Null for a line that is none.
 */
export function readSegments(line: string): { readonly id: string; readonly segments: HeardSegment[] } | null {
  const [, id, rest] = /^(.*) S \S+ T \S+ A \S+ L \S+ (.*)$/.exec(line.trim()) ?? [];
  if (id === undefined || rest === undefined) return null;
  const parts = rest.split(' ');
  const segments: HeardSegment[] = [];
  for (let at = 0; at + 4 < parts.length; at += 4) {
    const text = withoutWay(parts[at + 3] as string);
    if (isFiller(text)) continue;
    segments.push({ text, from: Number(parts[at]) / FRAMES, to: Number(parts[at + 4]) / FRAMES });
  }
  return { id, segments };
}

/** So little likely is not worth keeping, nor more than so many. */
const LEAST_SHARE = 0.02;
const MOST_OTHERS = 5;

/**
 * The words of the likeliest path, each with how sure it is and with what else it may have been: all that the lattice has in the
 * middle of it, where the shares of all its links are one together.
 * @param fromMs where in the sound the lattice begins
 */
export function heardWords({ links }: Lattice, segments: readonly HeardSegment[], fromMs: number): SpokenWord[] {
  return segments.map(({ text, from, to }) => {
    const middle = (from + to) / 2;
    const shares = new Map<string, number>();
    for (const link of links)
      if (link.from <= middle && middle < link.to) shares.set(link.text, (shares.get(link.text) ?? 0) + link.share);
    const others = [...shares]
      .filter(([other, share]) => other !== text && share >= LEAST_SHARE)
      .map(([other, share]): OtherWord => ({ text: other, certainty: Math.min(1, share) }))
      .sort((a, b) => b.certainty - a.certainty)
      .slice(0, MOST_OTHERS);
    return {
      text,
      startMs: fromMs + Math.round(from * 1000),
      endMs: fromMs + Math.round(to * 1000),
      certainty: Math.min(1, shares.get(text) ?? 0),
      ...(others.length > 0 ? { others } : {}),
    };
  });
}
