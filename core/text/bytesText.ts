const hex = (data: Uint8Array) => Array.from(data, (byte) => byte.toString(16).toUpperCase().padStart(2, '0'))
const letters = (data: Uint8Array) => Array.from(data, (byte) => (byte > 31 && byte < 127 ? String.fromCharCode(byte) : '·')).join('')

/** The first bytes in one line. */
export const bytesLine = (data: Uint8Array, most: number) => hex(data.subarray(0, most)).join(' ') + (data.length > most ? ' …' : '')

/** All bytes in lines of sixteen, with their offset and as letters. */
export const bytesLines = (data: Uint8Array): string =>
  Array.from({ length: Math.ceil(data.length / 16) }, (_, i) => {
    const line = data.subarray(16 * i, 16 * i + 16)
    return `${(16 * i).toString(16).toUpperCase().padStart(4, '0')}  ${hex(line).join(' ').padEnd(47)}  ${letters(line)}`
  }).join('\n')
