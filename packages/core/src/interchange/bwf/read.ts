import { XMLParser } from 'fast-xml-parser';
import type { Bext, ByteSource, Ixml } from './types';

const BEXT_FIXED_BYTES = 602;
/** A chunk larger than this is not one of ours; a crafted size must not make us read gigabytes. */
const MAX_CHUNK_BYTES = 4 * 1024 * 1024;
const MAX_CHUNKS = 1000;

const ascii = (bytes: Uint8Array, start: number, length: number): string => {
  const end = bytes.indexOf(0, start);
  const stop = end < 0 || end > start + length ? start + length : end;
  return new TextDecoder('utf-8').decode(bytes.subarray(start, Math.min(stop, bytes.length))).trimEnd();
};

/** Reads a `bext` chunk's content; null if it is shorter than its fixed part. */
export function readBext(chunk: Uint8Array): Bext | null {
  if (chunk.length < BEXT_FIXED_BYTES) return null;
  const view = new DataView(chunk.buffer, chunk.byteOffset, chunk.byteLength);
  const samples = view.getBigUint64(338, true);
  return {
    description: ascii(chunk, 0, 256),
    originator: ascii(chunk, 256, 32),
    originatorReference: ascii(chunk, 288, 32),
    originationDate: ascii(chunk, 320, 10),
    originationTime: ascii(chunk, 330, 8),
    timeReferenceSamples: samples <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(samples) : 0,
    version: view.getUint16(346, true),
    codingHistory: ascii(chunk, BEXT_FIXED_BYTES, chunk.length - BEXT_FIXED_BYTES),
  };
}

const text = (value: unknown): string | null =>
  typeof value === 'string' && value.trim() !== '' ? value.trim() : null;

/** Reads an iXML document; null if it is none. One with a document type is refused: its entities could grow without bound. */
export function readIxml(document: string): Ixml | null {
  if (/<!DOCTYPE/i.test(document)) return null;
  let root: Record<string, unknown>;
  try {
    const parsed = new XMLParser({
      parseTagValue: false,
      processEntities: true,
      isArray: (name) => name === 'TRACK',
    }).parse(document) as { BWFXML?: Record<string, unknown> };
    if (typeof parsed.BWFXML !== 'object') return null;
    root = parsed.BWFXML;
  } catch {
    return null;
  }
  const list = (root['TRACK_LIST'] as { TRACK?: Record<string, unknown>[] } | undefined)?.TRACK ?? [];
  const circled = text(root['CIRCLED']);
  return {
    project: text(root['PROJECT']),
    scene: text(root['SCENE']),
    take: text(root['TAKE']),
    tape: text(root['TAPE']),
    note: text(root['NOTE']),
    circled: circled === null ? null : circled.toUpperCase() === 'TRUE',
    tracks: new Map(
      list.flatMap((track) =>
        text(track['NAME']) ? [[Number(track['CHANNEL_INDEX']), text(track['NAME']) as string] as const] : [],
      ),
    ),
  };
}

/** Walks the chunks of a RIFF or RF64 WAVE file and reads its `bext` and `iXML`. Both null if the file is no WAVE file. */
export async function readBwf(source: ByteSource): Promise<{ bext: Bext | null; ixml: Ixml | null }> {
  const result: { bext: Bext | null; ixml: Ixml | null } = { bext: null, ixml: null };
  const head = await source.read(0, 12);
  if (head.length < 12 || !['RIFF', 'RF64', 'BW64'].includes(ascii(head, 0, 4)) || ascii(head, 8, 4) !== 'WAVE')
    return result;
  let dataBytes64: number | null = null;
  let offset = 12;
  for (let n = 0; n < MAX_CHUNKS && offset + 8 <= source.bytes; n += 1) {
    const header = await source.read(offset, 8);
    if (header.length < 8) break;
    const id = ascii(header, 0, 4);
    let bytes = new DataView(header.buffer, header.byteOffset, 8).getUint32(4, true);
    if (id === 'ds64') {
      // RF64: the true size of `data` stands here, and its own field holds 0xFFFFFFFF (EBU Tech 3306).
      const sizes = await source.read(offset + 8, 16);
      if (sizes.length === 16)
        dataBytes64 = Number(new DataView(sizes.buffer, sizes.byteOffset, 16).getBigUint64(8, true));
    }
    if (id === 'data' && bytes === 0xffffffff && dataBytes64 !== null) bytes = dataBytes64;
    if ((id === 'bext' || id === 'iXML') && bytes <= MAX_CHUNK_BYTES) {
      const content = await source.read(offset + 8, bytes);
      if (id === 'bext') result.bext = readBext(content);
      else result.ixml = readIxml(ascii(content, 0, content.length));
    }
    // Chunks are padded to an even length.
    offset += 8 + bytes + (bytes % 2);
  }
  return result;
}
