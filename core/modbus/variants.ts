import type { AddressVariant } from '../links/variants'
import { formatAddress, maxOffset, parseAddress, type ModbusAddress, type Table } from './address'

/** Lists that count from 1 are off by one; and devices have either table of a kind, or the same in both. */
export const modbusVariants = (text: string): AddressVariant[] => {
  const parsed = parseAddress(text)
  if (!parsed.ok) return []
  const { address } = parsed
  const at = (what: AddressVariant['what'], change: Partial<ModbusAddress>): AddressVariant => ({
    what,
    address: formatAddress({ ...address, ...change }),
  })
  return [
    ...(address.offset > 0 ? [at('lower', { offset: address.offset - 1 })] : []),
    ...(address.offset < maxOffset ? [at('higher', { offset: address.offset + 1 })] : []),
    at('other table', { table: twin[address.table] }),
  ]
}

const twin: Record<Table, Table> = { coil: 'discrete', discrete: 'coil', holding: 'input', input: 'holding' }
