import { connect, type Socket } from 'node:net'
import { once } from 'node:events'
import { decodeAnswer, decodeRead, encodeRead, encodeSetup, type Piece } from '#core/isotcp/pdu'
import { encodeData, encodeRequest, PacketCutter } from '#core/isotcp/tpkt'

export interface PlainTag {
  path: string
  block: number
  offset: number
  type: 'int16' | 'float32'
}

export const widthOf = ({ type }: Pick<PlainTag, 'type'>) => (type === 'int16' ? 2 : 4)

/** What a script would have: one connection, one request after the other, with the bare codec. */
export class PlainController {
  private cutter = new PacketCutter()
  private waiting: ((data: Buffer) => void) | null = null
  private reference = 1

  private constructor(private socket: Socket) {
    socket.on('data', (chunk) => {
      for (const tpdu of this.cutter.push(chunk).tpdus) this.waiting?.(tpdu.kind === 'data' ? tpdu.data : Buffer.alloc(0))
    })
  }

  static async open(port: number) {
    const socket = connect(port, '127.0.0.1')
    socket.setNoDelay(true)
    await once(socket, 'connect')
    const plain = new PlainController(socket)
    await plain.ask(encodeRequest(1, { ours: Buffer.from([1, 0]), theirs: Buffer.from([2, 2]) }))
    await plain.ask(encodeData(encodeSetup(1, { parallel: 1, size: 240 })))
    return plain
  }

  async read(piece: Piece): Promise<Buffer> {
    const answer = decodeAnswer(await this.ask(encodeData(encodeRead(++this.reference & 0xffff, [piece]))))
    const read = answer.ok ? decodeRead(answer.value, [piece]) : answer
    if (!read.ok || !read.value[0]?.ok) throw new Error('nothing was read')
    return (read.value[0] as { data: Buffer }).data
  }

  close() {
    this.socket.destroy()
  }

  private ask(bytes: Buffer): Promise<Buffer> {
    return new Promise((resolve) => {
      this.waiting = resolve
      this.socket.write(bytes)
    })
  }
}

const valueIn = (data: Buffer, at: number, { type }: PlainTag) => (type === 'int16' ? data.readInt16BE(at) : data.readFloatBE(at))

export const readTagByTag = async (plain: PlainController, tags: readonly PlainTag[], values: Map<string, number>) => {
  for (const tag of tags) {
    const data = await plain.read({ area: 'block', block: tag.block, offset: tag.offset, bit: null, count: widthOf(tag) })
    values.set(tag.path, valueIn(data, 0, tag))
  }
}

export interface HandBlock {
  block: number
  offset: number
  count: number
  tags: PlainTag[]
}

/** As a person would cut them: as many tags in a row as one answer carries. */
export const blocksByHand = (tags: readonly PlainTag[], most = 222): HandBlock[] => {
  const blocks: HandBlock[] = []
  for (const tag of tags) {
    const last = blocks.at(-1)
    const end = tag.offset + widthOf(tag)
    if (last && last.block === tag.block && end - last.offset <= most) {
      last.tags.push(tag)
      last.count = end - last.offset
    } else blocks.push({ block: tag.block, offset: tag.offset, count: widthOf(tag), tags: [tag] })
  }
  return blocks
}

export const readBlocks = async (plain: PlainController, blocks: readonly HandBlock[], values: Map<string, number>) => {
  for (const { block, offset, count, tags } of blocks) {
    const data = await plain.read({ area: 'block', block, offset, bit: null, count })
    for (const tag of tags) values.set(tag.path, valueIn(data, tag.offset - offset, tag))
  }
}
