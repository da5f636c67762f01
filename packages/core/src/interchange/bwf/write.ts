import type { Bext, Ixml } from './types';

const BEXT_FIXED_BYTES = 602;

function put(target: Uint8Array, offset: number, length: number, text: string): void {
  target.set(new TextEncoder().encode(text).subarray(0, length), offset);
}

/** The content of a `bext` chunk (EBU Tech 3285, version 1: loudness fields and UMID left at zero). */
export function writeBext(bext: Bext): Uint8Array {
  const history = new TextEncoder().encode(bext.codingHistory);
  const chunk = new Uint8Array(BEXT_FIXED_BYTES + history.length);
  put(chunk, 0, 256, bext.description);
  put(chunk, 256, 32, bext.originator);
  put(chunk, 288, 32, bext.originatorReference);
  put(chunk, 320, 10, bext.originationDate);
  put(chunk, 330, 8, bext.originationTime);
  const view = new DataView(chunk.buffer);
  view.setBigUint64(338, BigInt(bext.timeReferenceSamples), true);
  view.setUint16(346, bext.version, true);
  chunk.set(history, BEXT_FIXED_BYTES);
  return chunk;
}

const escape = (text: string): string => text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;');

/** An iXML document. */
export function writeIxml({ project, scene, take, tape, note, circled, tracks }: Ixml): string {
  const element = (name: string, value: string | null) => (value === null ? '' : `<${name}>${escape(value)}</${name}>`);
  const list = [...tracks].map(
    ([channel, name], index) =>
      `<TRACK><CHANNEL_INDEX>${channel}</CHANNEL_INDEX><INTERLEAVE_INDEX>${index + 1}</INTERLEAVE_INDEX>${element('NAME', name)}</TRACK>`,
  );
  const body = [
    element('IXML_VERSION', '1.61'),
    element('PROJECT', project),
    element('SCENE', scene),
    element('TAKE', take),
    element('TAPE', tape),
    element('NOTE', note),
    element('CIRCLED', circled === null ? null : circled ? 'TRUE' : 'FALSE'),
    list.length > 0 ? `<TRACK_LIST><TRACK_COUNT>${list.length}</TRACK_COUNT>${list.join('')}</TRACK_LIST>` : '',
  ];
  return `<?xml version="1.0" encoding="UTF-8"?>\n<BWFXML>${body.join('')}</BWFXML>`;
}

/** A WAVE file's bytes with chunks put in before its sound data, sizes set anew. `wave` is a RIFF WAVE file below 4 GiB. */
export function insertChunks(
  wave: Uint8Array,
  chunks: readonly { readonly id: string; readonly content: Uint8Array }[],
): Uint8Array {
  const parts = chunks.map(({ id, content }) => {
    const part = new Uint8Array(8 + content.length + (content.length % 2));
    put(part, 0, 4, id);
    new DataView(part.buffer).setUint32(4, content.length, true);
    part.set(content, 8);
    return part;
  });
  const added = parts.reduce((sum, part) => sum + part.length, 0);
  const out = new Uint8Array(wave.length + added);
  out.set(wave.subarray(0, 12));
  let offset = 12;
  for (const part of parts) {
    out.set(part, offset);
    offset += part.length;
  }
  out.set(wave.subarray(12), offset);
  new DataView(out.buffer).setUint32(4, out.length - 8, true);
  return out;
}
