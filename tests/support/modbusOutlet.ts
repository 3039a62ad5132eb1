import { CallBook } from '#core/calls/callBook'
import { Socket } from 'node:net'
import jsmodbus from 'jsmodbus'
import { quality } from '#core/tags/quality'
import type { TagValue } from '#core/tags/types'
import { ArrivalBook } from '#engine/arrivals/arrivalBook'
import { ModbusServerSession } from '#engine/outlets/modbus/session'
import type { OutletContext, OutletTag } from '#engine/outlets/driver'
import { TagTable, type Handle } from '#engine/table/tagTable'
import { Wire } from '#engine/wire/wire'
import { modbusServerSettings } from '#shared/outlets/modbusServer'
import { freePort } from '../../launcher/ports.mjs'
import { noAlarms, noPast, plainTag } from './outletTag'
import type { Closing } from './engineOn'
import { memoryJournal } from './modbusSession'
import { testSecurity } from './security'
import { until } from './until'

interface Around {
  write?: OutletContext<unknown>['write']
}

/** A Modbus outlet with a tag table of its own; who asks is a package that is not ours, or a raw socket. */
export const openModbusOutlet = async (closing: Closing, settings: Record<string, unknown> = {}, around: Around = {}) => {
  const port = await freePort()
  const [table, journal, security] = [new TagTable(), memoryJournal(), await testSecurity()]
  const parsed = (next: Record<string, unknown>) =>
    modbusServerSettings.parse({ ...next, doors: ((next.doors as object[] | undefined) ?? [{}]).map((door) => ({ port, ...door })) })
  const calls = new CallBook()
  const written: { handle: Handle; value: TagValue; who: string }[] = []
  const session = new ModbusServerSession({
    ...{ name: 'Panel', settings: parsed(settings), table, journal, security, wire: new Wire(), calls, folder: null },
    ...{
      links: () => [],
      site: () => 'Harrow Sound',
      link: () => undefined,
      equipment: () => ({ classes: [], equipment: [] }),
      alarms: noAlarms,
      past: noPast,
      arrivals: new ArrivalBook(() => {}),
    },
    points: { ask: () => ({ ok: false, problem: 'none' }), release: () => {}, isAlive: () => false },
    write: (handle, value, by) => {
      written.push({ handle, value, who: by.who })
      return around.write?.(handle, value, by) ?? Promise.resolve({ ok: true })
    },
  })
  closing.unshift(() => session.close())
  const details = () => {
    const found = session.status().details
    if (found?.kind !== 'modbus-server') throw new Error('It is not open')
    return found
  }
  await until(() => details().doors[0]?.flow === 'flowing')
  let id = 0
  const set = ({ handle }: Pick<OutletTag, 'handle'>, value: TagValue, code: number = quality.Good) => {
    table.set(handle, value, code, Date.now())
    table.flush()
  }
  const tag = (path: string, value?: TagValue, more: Partial<OutletTag> = {}): OutletTag => {
    const handle = table.allocate()
    const made: OutletTag = { ...plainTag, handle, id: ++id, path, ...more }
    session.setTags([made], [])
    if (value !== undefined) set(made, value)
    return made
  }
  const update = (next: Record<string, unknown>) => session.update(parsed(next))
  const degrade = ({ handle }: Pick<OutletTag, 'handle'>, code: number) => {
    table.degrade(handle, code, Date.now())
    table.flush()
  }
  return { session, calls, port, table, journal, written, tag, set, degrade, update, details }
}

export const dialled = async (closing: Closing, port: number, socket = new Socket()): Promise<Socket> => {
  closing.unshift(async () => void socket.destroy())
  await new Promise<void>((resolve, reject) => socket.once('error', reject).connect(port, '127.0.0.1', resolve))
  return socket
}

/** The public package as a client. */
export const foreignClient = async (closing: Closing, port: number, unit = 1) => {
  const socket = new Socket()
  // it has to see the socket connect
  const client = new jsmodbus.client.TCP(socket, unit, 3000)
  await dialled(closing, port, socket)
  return client
}

/** What comes of a request of the package: the exception where it was refused. */
export const exceptionOf = (asked: Promise<unknown>): Promise<number | null> =>
  asked.then(
    () => null,
    (error: { response?: { body?: { code?: number } } }) => error.response?.body?.code ?? Promise.reject(error as unknown as Error),
  )

/** Sends bytes, and gives what comes back once so many are there. */
export const exchanged = (socket: Socket, bytes: Buffer, length: number): Promise<Buffer> =>
  new Promise((resolve, reject) => {
    let got = Buffer.alloc(0)
    const take = (chunk: Buffer) => {
      got = Buffer.concat([got, chunk])
      if (got.length < length) return
      socket.off('data', take)
      resolve(got)
    }
    socket.on('data', take).once('close', () => reject(new Error('the connection was closed')))
    socket.write(bytes)
  })
