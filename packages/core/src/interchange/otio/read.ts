import type { CutEvent, CutList } from '../../sequence';
import { countingById, COUNTINGS, rangeFrames, rescaleFrames, type Counting, type FrameRange } from '../../timecode';
import { METADATA_KEY, type OtioIssue } from './types';

export interface OtioResult {
  /** Null if the file is no timeline at all. */
  readonly list: CutList | null;
  readonly issues: readonly OtioIssue[];
}

type Json = Record<string, unknown>;
const asObject = (value: unknown): Json =>
  typeof value === 'object' && value !== null && !Array.isArray(value) ? (value as Json) : {};
const asList = (value: unknown): readonly Json[] => (Array.isArray(value) ? value.map(asObject) : []);
const asText = (value: unknown): string | null => (typeof value === 'string' && value !== '' ? value : null);
const own = (node: Json): Json => asObject(asObject(node['metadata'])[METADATA_KEY]);
const schemaOf = (node: Json): string => asText(node['OTIO_SCHEMA']) ?? 'nothing';

/** Rates travel as decimals, so 29.97002997 is the nearest exact rate within a tenth of a percent of the gap to its neighbours. */
function countingOf(node: Json, rate: unknown): Counting | null {
  const named = countingById(asText(own(node)['counting']) ?? '');
  const near = (counting: Counting) =>
    typeof rate === 'number' && Math.abs(counting.rate.num / counting.rate.den - rate) < 0.005;
  return named && near(named) ? named : (COUNTINGS.find(near) ?? null);
}

class Reader {
  readonly issues: OtioIssue[] = [];

  range(node: unknown, at: string, carrier: Json): { frames: FrameRange; counting: Counting } | null {
    const [start, duration] = [asObject(asObject(node)['start_time']), asObject(asObject(node)['duration'])];
    const counting = countingOf(carrier, start['rate']);
    if (!counting) {
      this.issues.push({ code: 'unknown-rate', at, rate: Number(start['rate']) });
      return null;
    }
    const [from, length] = [start['value'], duration['value']];
    if (
      !Number.isSafeInteger(from) ||
      !Number.isSafeInteger(length) ||
      (length as number) <= 0 ||
      duration['rate'] !== start['rate']
    ) {
      this.issues.push({ code: 'bad-range', at });
      return null;
    }
    return { frames: { start: from as number, end: (from as number) + (length as number) }, counting };
  }

  clip(node: Json, at: string): Omit<CutEvent, 'number' | 'record'> | null {
    const references = asObject(node['media_references']);
    const media = asObject(
      references[asText(node['active_media_reference_key']) ?? 'DEFAULT_MEDIA'] ?? node['media_reference'],
    );
    const source = this.range(node['source_range'] ?? media['available_range'], at, node);
    if (!source) return null;
    const { asset, reel, source_file, sound } = own(node);
    return {
      reel: asText(reel),
      clipName: asText(node['name']),
      sourceFile: asText(source_file) ?? asText(media['target_url']),
      assetId: Number.isSafeInteger(asset) ? (asset as number) : null,
      hasPicture: true,
      hasSound: sound === true,
      source: source.frames,
      sourceCounting: source.counting,
    };
  }
}

/** Reads an OpenTimelineIO timeline: the clips of its first picture track, gaps kept as time. Everything else is named and left out. */
export function readOtio(text: string): OtioResult {
  const reader = new Reader();
  let root: Json;
  try {
    root = asObject(JSON.parse(text));
  } catch (error) {
    return { list: null, issues: [{ code: 'not-json', reason: (error as Error).message }] };
  }
  if (!schemaOf(root).startsWith('Timeline.'))
    return { list: null, issues: [{ code: 'not-a-timeline', schema: schemaOf(root) }] };
  const track = asList(asObject(root['tracks'])['children']).find(
    (child) => schemaOf(child).startsWith('Track.') && child['kind'] === 'Video',
  );
  if (!track) return { list: null, issues: [{ code: 'no-picture-track' }] };

  const children = asList(track['children']).map((child, index) => ({ child, at: `child ${index + 1}` }));
  const read = children.map(({ child, at }) => {
    const schema = schemaOf(child);
    if (schema.startsWith('Clip.')) return { clip: reader.clip(child, at), gap: null };
    if (schema.startsWith('Gap.')) return { clip: null, gap: reader.range(child['source_range'], at, child) };
    reader.issues.push({ code: 'unknown-child', at, schema });
    return { clip: null, gap: null };
  });

  const global = asObject(root['global_start_time']);
  const first = read.find(({ clip }) => clip)?.clip;
  const counting = countingOf(root, global['rate']) ?? first?.sourceCounting ?? (countingById('25') as Counting);
  let start = Number.isSafeInteger(global['value']) ? (global['value'] as number) : 0;
  const events: CutEvent[] = [];
  for (const { clip, gap } of read) {
    const frames = clip ? rangeFrames(clip.source) : gap ? rangeFrames(gap.frames) : 0;
    const rate = (clip?.sourceCounting ?? gap?.counting ?? counting).rate;
    const end = start + (frames === 0 ? 0 : Math.max(1, rescaleFrames(frames, rate, counting.rate)));
    if (clip) events.push({ ...clip, number: events.length + 1, record: { start, end } });
    start = end;
  }
  return { list: { title: asText(root['name']) ?? '', counting, events }, issues: reader.issues };
}
