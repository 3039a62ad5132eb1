/** Where an OPC UA server is asked for: `opc.tcp://host:port/path` (OPC 10000-6, 7.2), or less. */
export interface EndpointAddress {
  host: string
  port: number
  /** With its leading slash, or empty. */
  path: string
}

export type ParsedEndpoint = { ok: true; address: EndpointAddress } | { ok: false; problem: string }

/** Registered for OPC UA connection protocol (IANA). */
export const defaultPort = 4840

const refuse = (problem: string): ParsedEndpoint => ({ ok: false, problem })
const hostName = /^(?=.{1,253}$)[a-z0-9_]([a-z0-9_-]{0,61}[a-z0-9_])?(\.[a-z0-9_]([a-z0-9_-]{0,61}[a-z0-9_])?)*\.?$/i

/** Understands `host`, `host:port`, `[v6]:port`, each also with a path, and the full address. */
export const parseEndpoint = (text: string): ParsedEndpoint => {
  const typed = text.trim()
  if (typed === '') return refuse('Type a host and port, such as arm1.port.example:4840, or a full opc.tcp:// address.')
  const scheme = /^([a-z][a-z0-9+.-]*):\/\//i.exec(typed)?.[1]?.toLowerCase()
  if (scheme && scheme !== 'opc.tcp') return refuse(`“${scheme}://” is another transport; this link speaks opc.tcp://.`)
  const rest = scheme ? typed.slice(scheme.length + 3) : typed
  if (/\s/.test(rest)) return refuse('An address holds no spaces.')
  const match = /^(\[[0-9a-f:.%]+\]|[^:/[\]]+)(?::([^/:]*))?(\/.*)?$/i.exec(rest)
  if (!match) return refuse(`“${rest}” is no host and port. A numeric IPv6 address goes in brackets: [fe80::1]:4840.`)
  return checked(match[1]!, match[2], match[3] ?? '')
}

const checked = (written: string, portText: string | undefined, path: string): ParsedEndpoint => {
  const host = written.replace(/^\[|\]$/g, '')
  const isV6 = written.startsWith('[')
  if (!isV6 && /^\d+(\.\d+){3}$/.test(host) && host.split('.').some((part) => Number(part) > 255))
    return refuse('Each part of a numeric address is 0 to 255.')
  if (!isV6 && !hostName.test(host)) return refuse(`“${host}” is neither a host name nor a numeric address.`)
  const port = portText === undefined ? defaultPort : Number(portText)
  if (portText === '' || !Number.isInteger(port) || port < 1 || port > 65_535) return refuse('A TCP port is 1 to 65535.')
  return { ok: true, address: { host, port, path: path === '/' ? '' : path } }
}

export const hostText = (host: string) => (host.includes(':') ? `[${host}]` : host)
export const endpointUrl = ({ host, port, path }: EndpointAddress) => `opc.tcp://${hostText(host)}:${port}${path}`
export const endpointText = ({ host, port, path }: EndpointAddress) => `${hostText(host)}:${port}${path}`
