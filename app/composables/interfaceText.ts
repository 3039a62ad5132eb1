import type { InterfaceStatus } from '#shared/status'

/** Who reaches a door, by the address that it listens on. */
export const interfaceText = (address: string, own: readonly InterfaceStatus[] = []): string => {
  if (address === '127.0.0.1') return 'this machine only'
  return address === '0.0.0.0' ? 'every interface' : (own.find((one) => one.address === address)?.name ?? address)
}
