/** The services that a port is most often mistaken for, by the first bytes that they send. */
const firstBytes: { what: string; fits(bytes: Uint8Array, text: string): boolean }[] = [
  { what: 'a web server (HTTP)', fits: (_, text) => text.startsWith('HTTP/') || /^<!doctype|^<html/i.test(text) },
  { what: 'a secure shell (SSH)', fits: (_, text) => text.startsWith('SSH-') },
  // alert or handshake record, then the version (RFC 8446, 5.1)
  { what: 'a TLS service', fits: ([type, major]) => (type === 0x15 || type === 0x16) && major === 0x03 },
  { what: 'an OPC UA server', fits: (_, text) => /^(ACK|ERR|MSG|OPN)F/.test(text) },
  { what: 'a mail or file transfer service', fits: (_, text) => /^220[ -]/.test(text) },
  // TPKT, version 3 (RFC 1006, 6)
  { what: 'an ISO-on-TCP service', fits: ([version, reserved]) => version === 0x03 && reserved === 0x00 },
]

/** What a peer seems to be, judged by the first bytes that it sent; null: nothing that is known here. */
export const serviceBehind = (bytes: Uint8Array): string | null => {
  const text = String.fromCharCode(...bytes.subarray(0, 16))
  return firstBytes.find(({ fits }) => fits(bytes, text))?.what ?? null
}
