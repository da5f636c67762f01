const HEADER_BYTES = 44;

/** A short silent PCM file of 8 kHz, told apart from every other by its first samples. */
export function wave(number: number, samples = 8000): Buffer {
  const bytes = Buffer.alloc(HEADER_BYTES + samples * 2);
  bytes.write('RIFF', 0);
  bytes.writeUInt32LE(bytes.length - 8, 4);
  bytes.write('WAVEfmt ', 8);
  bytes.writeUInt32LE(16, 16);
  bytes.writeUInt16LE(1, 20);
  bytes.writeUInt16LE(1, 22);
  bytes.writeUInt32LE(8000, 24);
  bytes.writeUInt32LE(16_000, 28);
  bytes.writeUInt16LE(2, 32);
  bytes.writeUInt16LE(16, 34);
  bytes.write('data', 36);
  bytes.writeUInt32LE(samples * 2, 40);
  bytes.writeUInt32LE(number + 1, HEADER_BYTES);
  return bytes;
}
