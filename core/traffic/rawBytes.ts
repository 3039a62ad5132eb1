/**
 * The bytes that a stage of a value names, as in “43 AF 1A 00” or “bit 3 of 08”.
 *
 * @returns null: it names none, or only the first of many
 */
export const rawBytesIn = (text: string): Uint8Array | null => {
  const match = /^(?:bit \d+ of )?((?:[0-9a-f]{2} )*[0-9a-f]{2})$/i.exec(text)
  return match ? Uint8Array.from(match[1]!.split(' '), (byte) => parseInt(byte, 16)) : null
}
