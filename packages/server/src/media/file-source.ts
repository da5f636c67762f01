import { createHash } from 'node:crypto';
import { open, type FileHandle } from 'node:fs/promises';
import type { ByteSource } from '@larder/core/interchange/bwf';

const END_BYTES = 64 * 1024;

/** Opens a file for reading only, hands it to `work` as a byte source, and closes it whatever happens. */
export async function withFile<T>(path: string, work: (source: ByteSource) => Promise<T>): Promise<T> {
  const file: FileHandle = await open(path, 'r');
  try {
    const { size } = await file.stat();
    return await work({
      bytes: size,
      read: async (offset, length) => {
        const buffer = Buffer.alloc(Math.max(0, Math.min(length, size - offset)));
        const { bytesRead } = await file.read(buffer, 0, buffer.length, offset);
        return buffer.subarray(0, bytesRead);
      },
    });
  } finally {
    await file.close();
  }
}

/** SHA-1 over the size and the first and last 64 KiB: enough to tell recordings apart, quick on a slow volume. Not a checksum of the whole. */
export async function fingerprint(source: ByteSource): Promise<string> {
  const hash = createHash('sha1').update(`${source.bytes}\n`);
  hash.update(await source.read(0, END_BYTES));
  if (source.bytes > END_BYTES)
    hash.update(await source.read(Math.max(END_BYTES, source.bytes - END_BYTES), END_BYTES));
  return hash.digest('hex');
}
