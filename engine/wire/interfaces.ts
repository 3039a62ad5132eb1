import { networkInterfaces } from 'node:os'
import { isEverywhere } from '#shared/outlets/doors'
import type { InterfaceStatus } from '#shared/status'

/** The IPv4 addresses of this machine that others can reach. */
export const ownInterfaces = (): InterfaceStatus[] =>
  Object.entries(networkInterfaces()).flatMap(([name, entries]) =>
    (entries ?? [])
      .filter(({ family, internal }) => family === 'IPv4' && !internal)
      .map(({ address, netmask }) => ({ name, address, network: networkOf(address, netmask) })),
  )

/** Whether an address is one of this machine's, loopback and IPv6 included. IPv4 may come as IPv6 has it. */
export const isOwnAddress = (address: string): boolean => {
  const plain = address.replace(/^::ffff:/, '')
  if (plain.startsWith('127.') || plain === '::1') return true
  return Object.values(networkInterfaces()).some((entries) => entries?.some((entry) => entry.address === plain))
}

const networkOf = (address: string, netmask: string): string => {
  const mask = netmask.split('.').map(Number)
  const network = address.split('.').map((part, i) => Number(part) & mask[i]!)
  const bits = mask.reduce((total, part) => total + part.toString(2).replaceAll('0', '').length, 0)
  return `${network.join('.')}/${bits}`
}

/** Where all machines of an interface's network hear: as chosen, else as its address and mask have it, else everywhere. */
export const broadcastOf = ({ localAddress, broadcast }: { localAddress: string; broadcast: string }): string => {
  if (broadcast) return broadcast
  for (const entries of Object.values(networkInterfaces()))
    for (const { address, netmask, family } of entries ?? [])
      if (family === 'IPv4' && address === localAddress) return lastOf(address, netmask)
  // the whole of 127.0.0.0/8 is this machine
  return localAddress.startsWith('127.') ? '127.255.255.255' : '255.255.255.255'
}

const lastOf = (address: string, netmask: string): string => {
  const mask = netmask.split('.').map(Number)
  return address
    .split('.')
    .map((part, i) => (Number(part) & mask[i]!) | (~mask[i]! & 255))
    .join('.')
}

/** The system would say so, too, but only once it listens. */
export const requireInterface = ({ interface: address }: { interface: string }) => {
  if (isEverywhere(address) || isOwnAddress(address)) return
  throw Object.assign(new Error(address), { code: 'EADDRNOTAVAIL' })
}
