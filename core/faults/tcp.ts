import { fault, type Fault } from './catalogue'

interface SystemError {
  code?: string
  message: string
}

/** Says in words why a TCP connection failed, from the system's error code. */
export const tcpFault = (error: SystemError, host: string, port: number, localAddress = ''): Fault => {
  const evidence = error.code ?? error.message
  switch (error.code) {
    case 'ENOTFOUND':
    case 'EAI_AGAIN':
    case 'EAI_FAIL':
      return fault('name.unknown', { host, port }, evidence)
    case 'ECONNREFUSED':
      return fault('tcp.refused', { host, port }, evidence)
    case 'EHOSTUNREACH':
    case 'ENETUNREACH':
    case 'EINVAL':
      return fault('tcp.unreachable', { host, port }, evidence)
    case 'EADDRNOTAVAIL':
      return localAddress
        ? fault('tcp.local-address', { address: localAddress }, evidence)
        : fault('tcp.unreachable', { host, port }, evidence)
    default:
      return fault('tcp.closed', { host, port }, evidence)
  }
}
