import { CallBook } from '#core/calls/callBook'
import mqtt, { type IClientOptions, type MqttClient } from 'mqtt'
import { quality } from '#core/tags/quality'
import type { TagValue } from '#core/tags/types'
import { ArrivalBook } from '#engine/arrivals/arrivalBook'
import { MqttBrokerSession } from '#engine/outlets/mqtt/session'
import type { OutletContext, OutletTag } from '#engine/outlets/driver'
import { TagTable, type Handle } from '#engine/table/tagTable'
import { Wire } from '#engine/wire/wire'
import { mqttBrokerSettings } from '#shared/outlets/mqttBroker'
import { freePort } from '../../launcher/ports.mjs'
import { noAlarms, noPast, plainTag } from './outletTag'
import type { Closing } from './engineOn'
import { memoryJournal } from './modbusSession'
import { testSecurity } from './security'
import { until } from './until'

interface Around {
  folder?: string | null
  write?: OutletContext<unknown>['write']
  port?: number
}

/** An MQTT outlet with a tag table of its own and nothing behind it but what is given; clients are of a package that is not ours. */
export const openBroker = async (closing: Closing, settings: { doors?: object[] } & Record<string, unknown> = {}, around: Around = {}) => {
  const port = around.port ?? (await freePort())
  const [table, journal, book, security] = [new TagTable(), memoryJournal(), new ArrivalBook(() => {}), await testSecurity()]
  const parsed = (next: typeof settings) =>
    mqttBrokerSettings.parse({ ...next, doors: (next.doors ?? [{}]).map((door) => ({ port, ...door })) })
  const calls = new CallBook()
  const written: { handle: Handle; value: TagValue; who: string }[] = []
  const session = new MqttBrokerSession({
    ...{ name: 'Port broker', settings: parsed(settings), table, journal, security, wire: new Wire(), calls },
    ...{
      folder: around.folder ?? null,
      arrivals: book,
      links: () => [],
      site: () => 'Harrow Sound',
      link: () => undefined,
      equipment: () => ({ classes: [], equipment: [] }),
      alarms: noAlarms,
      past: noPast,
    },
    points: { ask: () => ({ ok: false, problem: 'none' }), release: () => {}, isAlive: () => false },
    write: (handle, value, by) => {
      written.push({ handle, value, who: by.who })
      return around.write?.(handle, value, by) ?? Promise.resolve({ ok: true })
    },
  })
  let isOpen = true
  const close = async () => {
    if (isOpen) await session.close()
    isOpen = false
  }
  closing.push(close)
  await until(() => session.status().details?.kind === 'mqtt-broker' && session.status().flow === 'flowing')
  let id = 0
  const tag = (path: string, value?: TagValue, more: Partial<OutletTag> = {}): OutletTag => {
    const handle = table.allocate()
    const made: OutletTag = { ...plainTag, handle, id: ++id, path, ...more }
    session.setTags([made], [])
    if (value !== undefined) set(made, value)
    return made
  }
  const set = ({ handle }: OutletTag, value: TagValue, code: number = quality.Good, at = Date.now()) => {
    table.set(handle, value, code, at)
    table.flush()
  }
  const details = () => {
    const told = session.status().details
    if (told?.kind !== 'mqtt-broker') throw new Error('it is not open')
    return told
  }
  return {
    ...{ session, calls, table, journal, book, port, written, tag, set, details, close },
    update: (next: typeof settings) => session.update(parsed(next)),
  }
}

/** A client that is connected, with what it has heard. */
export const clientOf = async (closing: Closing, port: number, options: IClientOptions & { url?: string } = {}) => {
  const { url = `mqtt://127.0.0.1:${port}`, ...rest } = options
  const client = await mqtt.connectAsync(url, { protocolVersion: 4, reconnectPeriod: 0, ...rest }, false)
  closing.push(() => client.endAsync(true))
  return withEars(client)
}

export const withEars = (client: MqttClient) => {
  const heard: { topic: string; text: string; retain: boolean; qos: number }[] = []
  client.on('message', (topic, payload, { retain, qos }) => heard.push({ topic, text: payload.toString(), retain, qos }))
  client.on('error', () => {})
  const textsOn = (topic: string) => heard.filter((one) => one.topic === topic).map(({ text }) => text)
  return { client, heard, textsOn }
}
