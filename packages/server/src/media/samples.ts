/** Takes bytes as they come, hands on samples of 16 bits; an odd byte waits for its other half. */
export function wholeSamples(add: (samples: Int16Array) => void): (piece: Buffer) => void {
  let rest = Buffer.alloc(0);
  return (piece) => {
    // Copied, so that samples lie at even addresses.
    const bytes = Buffer.concat([rest, piece]);
    const whole = bytes.length - (bytes.length % 2);
    add(new Int16Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + whole)));
    rest = bytes.subarray(whole);
  };
}
