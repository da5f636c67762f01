const DIGITS = '123456789ABCDEFGHJKLMNPQRSTUVWXYZabcdefghijkmnopqrstuvwxyz';
const LENGTH = 88;

/** The C4 ID of SMPTE ST 2114: a SHA-512 digest of 64 bytes as 88 digits to the base 58, after `c4`. */
export function c4Id(sha512: Uint8Array): string {
  let number = sha512.reduce((sum, byte) => (sum << 8n) | BigInt(byte), 0n);
  let digits = '';
  for (; number > 0n; number /= 58n) digits = (DIGITS[Number(number % 58n)] as string) + digits;
  return `c4${digits.padStart(LENGTH, '1')}`;
}
