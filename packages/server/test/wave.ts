const HEADER_BYTES = 44;

/** What stands before the samples of a PCM file of one channel, 8 kHz and 16 bits. */
export function waveHeader(dataBytes: number): Buffer {
  const bytes = Buffer.alloc(HEADER_BYTES);
  bytes.write('RIFF', 0);
  bytes.writeUInt32LE(HEADER_BYTES - 8 + dataBytes, 4);
  bytes.write('WAVEfmt ', 8);
  bytes.writeUInt32LE(16, 16);
  bytes.writeUInt16LE(1, 20);
  bytes.writeUInt16LE(1, 22);
  bytes.writeUInt32LE(8000, 24);
  bytes.writeUInt32LE(16_000, 28);
  bytes.writeUInt16LE(2, 32);
  bytes.writeUInt16LE(16, 34);
  bytes.write('data', 36);
  bytes.writeUInt32LE(dataBytes, 40);
  return bytes;
}

/** A short silent PCM file, told apart from every other by its first samples. */
export function wave(number: number, samples = 8000): Buffer {
  const data = Buffer.alloc(samples * 2);
  data.writeUInt32LE(number + 1, 0);
  return Buffer.concat([waveHeader(data.length), data]);
}
