/** A table of what a job says of its bay, as bytes: little-endian float64. */
export function tableBytes(table: Float64Array): Buffer {
  const bytes = Buffer.alloc(8 * table.length);
  table.forEach((value, i) => bytes.writeDoubleLE(value, 8 * i));
  return bytes;
}

/** The same read back. */
export function tableOf(bytes: Buffer): Float64Array {
  return Float64Array.from({ length: bytes.length / 8 }, (_, i) => bytes.readDoubleLE(8 * i));
}
