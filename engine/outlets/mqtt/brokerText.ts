import type { AedesPacket } from 'aedes-packet'
import { z } from 'zod'
import { qosLevels } from '#core/mqtt/settings'

/** How packets and subscriptions lie on the disk. */

const stored = z.object({
  cmd: z.enum(['publish', 'pubrel']),
  brokerId: z.string().nullish(),
  brokerCounter: z.number().nullish(),
  topic: z.string().nullish(),
  payload: z.string().nullish(),
  qos: z.literal(qosLevels).nullish(),
  retain: z.boolean().nullish(),
  messageId: z.number().nullish(),
  clientId: z.string().nullish(),
})

type SentPacket = AedesPacket & { messageId?: number; clientId?: string }

export const packetText = (packet: SentPacket): string => {
  const { cmd, brokerId, brokerCounter, topic, payload, qos, retain, messageId, clientId } = packet as SentPacket & Record<string, unknown>
  const bytes = typeof payload === 'string' ? Buffer.from(payload) : (payload as Uint8Array | undefined)
  const text = bytes && Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length).toString('base64')
  return JSON.stringify({ cmd, brokerId, brokerCounter, topic, payload: text, qos, retain, messageId, clientId })
}

/** Null: the disk garbled it. */
export const storedPacket = (text: string): SentPacket | null => {
  try {
    const { payload, ...rest } = stored.parse(JSON.parse(text))
    const known = Object.fromEntries(Object.entries(rest).filter(([, value]) => value !== null && value !== undefined))
    return { ...known, ...(rest.cmd === 'publish' ? { payload: Buffer.from(payload ?? '', 'base64'), dup: false } : {}) } as SentPacket
  } catch {
    return null
  }
}

const will = z.object({ name: z.string(), packet: z.string() })

export const willText = (name: string, packet: SentPacket): string =>
  JSON.stringify({ name, packet: packetText({ ...packet, cmd: 'publish' } as SentPacket) })

/** Null: the disk garbled it. */
export const storedWill = (text: string): { name: string; packet: SentPacket } | null => {
  try {
    const { name, packet } = will.parse(JSON.parse(text))
    const read = storedPacket(packet)
    return read && { name, packet: read }
  } catch {
    return null
  }
}

const subscriptions = z.array(
  z.object({
    topic: z.string(),
    qos: z.literal(qosLevels),
    rh: z.number().optional(),
    rap: z.boolean().optional(),
    nl: z.boolean().optional(),
  }),
)
export type StoredSubscription = z.output<typeof subscriptions>[number]

/** None where the disk garbled them. */
export const readSubscriptions = (text: string): StoredSubscription[] => {
  try {
    return subscriptions.parse(JSON.parse(text))
  } catch {
    return []
  }
}
