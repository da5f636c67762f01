/** Takes bytes as they come, hands on samples of 16 bits, of all channels at a time; what is less waits for the rest. */
export function wholeSamples(add: (samples: Int16Array) => void, channels = 1): (piece: Buffer) => void {
  let rest = Buffer.alloc(0);
  return (piece) => {
    // Copied, so that samples lie at even addresses.
    const bytes = Buffer.concat([rest, piece]);
    const whole = bytes.length - (bytes.length % (2 * channels));
    add(new Int16Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + whole)));
    rest = bytes.subarray(whole);
  };
}
