import { Socket } from 'node:net'
import jsmodbus from 'jsmodbus'
import type { BenchTag } from './tags'

/** What an integrator would script: one connection, a client per unit, values into a map. */
export const connectPlain = async (port: number, units: number[]) => {
  const socket = new Socket()
  const clients = new Map(units.map((unit) => [unit, new jsmodbus.client.TCP(socket, unit, 5000)]))
  await new Promise<void>((resolve) => socket.connect(port, '127.0.0.1', () => resolve()))
  return { clients, close: () => socket.destroy() }
}

type Clients = Awaited<ReturnType<typeof connectPlain>>['clients']

const decode = (tag: BenchTag, bytes: Buffer, at: number) => (tag.type === 'float32' ? bytes.readFloatBE(at) : bytes.readInt16BE(at))

export const readTagByTag = async (clients: Clients, tags: BenchTag[], values: Map<string, number>) => {
  for (const tag of tags) {
    const { response } = await clients.get(tag.unit)!.readHoldingRegisters(tag.offset, tag.count)
    values.set(tag.path, decode(tag, response.body.valuesAsBuffer, 0))
  }
}

export interface HandBlock {
  unit: number
  offset: number
  count: number
  tags: BenchTag[]
}

/** Blocks as a careful person would choose them: as full as the limit allows, no value cut in two. */
export const blocksByHand = (tags: BenchTag[]): HandBlock[] => {
  const blocks: HandBlock[] = []
  for (const tag of tags) {
    const last = blocks.at(-1)
    if (last?.unit === tag.unit && tag.offset + tag.count - last.offset <= 125) {
      last.count = tag.offset + tag.count - last.offset
      last.tags.push(tag)
    } else blocks.push({ unit: tag.unit, offset: tag.offset, count: tag.count, tags: [tag] })
  }
  return blocks
}

export const readBlocks = async (clients: Clients, blocks: HandBlock[], values: Map<string, number>) => {
  for (const { unit, offset, count, tags } of blocks) {
    const { response } = await clients.get(unit)!.readHoldingRegisters(offset, count)
    for (const tag of tags) values.set(tag.path, decode(tag, response.body.valuesAsBuffer, 2 * (tag.offset - offset)))
  }
}
