import { BlockList, isIPv6 } from 'node:net'
import { FolderRules } from '#core/outlets/rules'
import type { ModbusServerSettings } from '#shared/outlets/modbusServer'
import { plainAddress } from '../doors/admission'

/** Who comes, known by the address alone, and what that one may do. */
export interface Machine {
  name: string
  rules: FolderRules
}

type MachineSettings = Pick<ModbusServerSettings, 'anyone' | 'machines'>

export const anyoneText = 'not listed'

/** Machines that are listed, by their addresses; the first that fits is it. */
export class Machines {
  private listed: { range: BlockList; machine: Machine }[] = []
  private anyone!: Machine

  constructor(settings: MachineSettings) {
    this.take(settings)
  }

  take({ anyone, machines }: MachineSettings) {
    this.anyone = { name: anyoneText, rules: new FolderRules(anyone) }
    this.listed = machines.map(({ name, from, rules }) => ({ range: rangeOf(from), machine: { name, rules: new FolderRules(rules) } }))
  }

  /** @param address null: it has none */
  at(address: string | null): Machine {
    if (address === null) return this.anyone
    const plain = plainAddress(address)
    const family = isIPv6(plain) ? 'ipv6' : 'ipv4'
    return this.listed.find(({ range }) => range.check(plain, family))?.machine ?? this.anyone
  }

  /** The rules of everybody. */
  all(): FolderRules[] {
    return [this.anyone, ...this.listed.map(({ machine }) => machine)].map(({ rules }) => rules)
  }
}

const rangeOf = (text: string): BlockList => {
  const [address = '', prefix] = text.split('/')
  const family = isIPv6(address) ? 'ipv6' : 'ipv4'
  const list = new BlockList()
  if (prefix === undefined) list.addAddress(address, family)
  else list.addSubnet(address, Number(prefix), family)
  return list
}
