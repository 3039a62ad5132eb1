import type { Socket } from 'node:net'
import { exceptionMeaning } from '#core/modbus/exceptions'
import type { Cutter } from '#core/modbus/frame'
import { framesOf } from '#core/modbus/framing'
import type { MapEntry } from '#core/modbus/map/entry'
import { placeOf } from '#core/modbus/map/entry'
import { rangeText } from '#core/modbus/map/ways'
import { encodeRequest, decodeReply, type Request } from '#core/modbus/pdu'
import type { DoorStatus } from '#shared/outlets/doorStatus'
import type { ModbusDoor } from '#shared/outlets/modbusServer'
import type { CheckStep } from '#shared/status'
import type { OutletContext } from '../driver'
import { dialDoor, tlsDoorSteps } from '../doors/dialDoor'
import { walkToDoor } from '../doors/walkToDoor'

const answerMs = 3000

interface Checked extends Pick<OutletContext<unknown>, 'security' | 'wire'> {
  door: ModbusDoor
  status: DoorStatus
  unit: number
  map: readonly MapEntry[]
}

/** Comes to a door as a client does, and asks for the first entry of the map. */
export const checkDoor = ({ door, status, unit, map, security, wire }: Checked): AsyncGenerator<CheckStep> =>
  walkToDoor(tlsDoorSteps, { door, status }, (numeric) =>
    dialDoor(numeric, {
      ...{ door: { ...door, tls: false }, own: security.own, wire },
      answer: async () => {
        const socket = await wire.dial({ host: numeric, port: door.port, connectMs: answerMs })
        try {
          return await answerOf(socket, door, unit, map)
        } finally {
          socket.destroy()
        }
      },
    }),
  )

const functionOf = { coil: 1, discrete: 2, holding: 3, input: 4 } as const

const answerOf = async (socket: Socket, { framing }: ModbusDoor, unit: number, map: readonly MapEntry[]): Promise<string> => {
  const place = (map[0] && placeOf(map[0], unit)) ?? { unit, table: 'holding' as const, offset: 0, count: 1 }
  const request: Request & { fc: 1 | 2 | 3 | 4 } = { fc: functionOf[place.table], offset: place.offset, count: place.count }
  const frames = framesOf(framing)
  const asked = `${rangeText(place.table, place.offset, place.count)} of unit ${place.unit}`
  const pdu = await replyTo(socket, frames.encode(1, place.unit, encodeRequest(request)), frames.cutter('reply'))
  const reply = decodeReply(pdu, request)
  if (reply.ok) return `answered a read of ${asked}`
  if (!('exception' in reply)) throw new Error(reply.problem)
  const { name, words } = exceptionMeaning(reply.exception)
  return `answers: for ${asked} exception ${reply.exception}, ${name} (${words})`
}

const replyTo = (socket: Socket, frame: Buffer, cutter: Cutter): Promise<Buffer> =>
  new Promise((resolve, reject) => {
    const timer = setTimeout(() => reject(new Error(`no answer within ${answerMs} ms`)), answerMs)
    socket.on('data', (chunk: Buffer) => {
      const { frames, problem } = cutter.push(chunk)
      if (!frames[0] && !problem) return
      clearTimeout(timer)
      if (frames[0]) resolve(frames[0].pdu)
      else reject(new Error(problem!))
    })
    socket.once('close', () => {
      clearTimeout(timer)
      reject(new Error('the connection was closed'))
    })
    socket.write(frame)
  })
