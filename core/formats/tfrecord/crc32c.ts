/** CRC-32C (Castagnoli), reflected polynomial 0x82f63b78: RFC 3720, appendix B.4. */
const table = new Uint32Array(256);
for (let n = 0; n < 256; n++) {
  let value = n;
  for (let bit = 0; bit < 8; bit++) value = value & 1 ? (value >>> 1) ^ 0x82f63b78 : value >>> 1;
  table[n] = value >>> 0;
}

/** The checksum of bytes. */
export function crc32c(bytes: Uint8Array): number {
  let crc = 0xffffffff;
  for (const byte of bytes) crc = (table[(crc ^ byte) & 0xff] as number) ^ (crc >>> 8);
  return (crc ^ 0xffffffff) >>> 0;
}

/** The checksum as record files keep it, turned and shifted so that a checksum of checksums is no trivial one. */
export function maskedCrc32c(bytes: Uint8Array): number {
  const crc = crc32c(bytes);
  return (((crc >>> 15) | (crc << 17)) + 0xa282ead8) >>> 0;
}
