import { proposed, usualWays } from '#core/modbus/map/propose'
import { passedOnBy } from '#core/tags/scaling'
import { hashPassword } from '#security/passwords'
import { outletContract, type OutletDraft } from '#shared/outlets/outlet'
import type { TagDraft } from '#shared/tags'

export interface OutletPorts {
  opcua: number
  opcuaSecured: number
  mqtt: number
  mqttSecured: number
  http: number
  modbusOutlet: number
}

export const outletName = 'OPC UA server'

/** An open door for a first look, and a secured one for the control room, whose people may write. */
export const demoOutlet = async (ports: OutletPorts): Promise<OutletDraft> =>
  outletContract.parse({
    name: outletName,
    kind: 'opcua-server',
    settings: {
      doors: [
        { port: ports.opcua },
        {
          port: ports.opcuaSecured,
          policies: ['Basic256Sha256', 'Aes256_Sha256_RsaPss'],
          anonymous: false,
          names: true,
          certificates: true,
        },
      ],
      anonymous: [
        { folder: '', may: 'read' },
        { folder: 'berth/1', may: 'write' },
      ],
      users: [
        {
          name: 'control room',
          key: { kind: 'password', password: { hashed: await hashPassword('harrow-sound') } },
          rules: [{ folder: '', may: 'write' }],
        },
      ],
      shortNames: { on: true, most: 32, own: [{ path: 'berth/1/shore/active_power', name: 'BERTH1_POWER' }] },
      onRequest: { on: true },
    },
  })

export const brokerName = 'Port broker'

/** Berths as topics for whoever listens; the harbour office may send, too, and set what is mapped for writing at berth 1. */
export const demoBroker = async (ports: OutletPorts): Promise<OutletDraft> =>
  outletContract.parse({
    name: brokerName,
    kind: 'mqtt-broker',
    settings: {
      doors: [
        { port: ports.mqtt, names: true },
        { port: ports.mqttSecured, tls: true, anonymous: false, names: true },
      ],
      users: [
        {
          name: 'harbour-office',
          password: { hashed: await hashPassword('harrow-sound') },
          rules: [{ filter: '#', may: 'both' }],
        },
      ],
      publishes: [
        { folder: 'berth', topic: '{path}', set: '{path}/set' },
        { folder: 'quay', topic: 'overview/{part1}', every: 2000 },
      ],
    },
  })

export const serverName = 'HTTP server'

/** Tags for the office, what a ship took at a berth out of the call book, and calls of agents, which a bridge hands in. */
export const demoServer = async (ports: OutletPorts, callBook: number): Promise<OutletDraft> =>
  outletContract.parse({
    name: serverName,
    kind: 'http-server',
    settings: {
      doors: [{ port: ports.http, names: true }],
      users: [{ name: 'harbour-office', token: { hashed: await hashPassword('harrow-sound') }, rules: [{ folder: '', may: 'write' }] }],
      endpoints: [
        {
          ...{ path: '/berths/{berth}/calls/{voyage}/energy', about: 'What a ship took at a berth during a call' },
          parameters: [{ name: 'berth', in: 'path', type: 'whole', least: 1, most: 3 }],
          does: {
            ...{ kind: 'rows', linkId: callBook },
            statement: [
              'with steps as (',
              '  select ship, at, meter_kwh - lag(meter_kwh) over (order by at) as kwh, eur_mwh',
              '  from energy where voyage = {voyage} and berth = {concat("berth/", berth)}',
              ')',
              'select max(ship) as ship, round(sum(kwh)::numeric, 1)::float8 as kwh,',
              '  round(sum(kwh * eur_mwh)::numeric / 1000, 2)::float8 as cost, max(at) as until',
              'from steps having count(kwh) > 0',
            ].join('\n'),
          },
          answer:
            '{"berth": "{berth}", "voyage": "{voyage}", "ship": "{ship}", "energy_kwh": "{kwh}", "cost_eur": "{cost}", "until": "{until}"}',
        },
        {
          ...{ path: '/berths/{berth}', about: 'A berth now' },
          parameters: [{ name: 'berth', in: 'path', type: 'whole', least: 1, most: 3 }],
          does: {
            kind: 'tags',
            values: [
              { name: 'kw', path: 'berth/{berth}/shore/active_power' },
              { name: 'kwh', path: 'berth/{berth}/shore/energy_import' },
            ],
          },
          answer: '{"berth": "{berth}", "power_kw": "{kw}", "as_of": "{kw_time}", "energy_kwh": "{kwh}"}',
        },
        {
          ...{ method: 'POST', path: '/visits', about: 'A ship that is expected' },
          parameters: [
            { name: 'voyage', in: 'body', most: 20 },
            { name: 'ship', in: 'body', most: 60 },
            { name: 'berth', in: 'body', type: 'whole', least: 1, most: 3 },
          ],
          does: { kind: 'message', topic: 'visits' },
        },
      ],
    },
  })

export const panelName = 'Modbus server'

/** Berths and converter on registers for panels that know addresses only; berth 1 may be written. */
export const demoPanel = (ports: OutletPorts, tags: readonly TagDraft[]): OutletDraft => {
  const placeable = tags.map((tag) => ({ path: tag.path, type: passedOnBy(tag), writable: tag.access === 'readwrite' }))
  const { entries } = proposed(placeable, [], usualWays)
  const isThere = { path: 'berth/1/shore/active_power', at: 'discrete/0', type: 'bool', tells: 'good' }
  return outletContract.parse({
    name: panelName,
    kind: 'modbus-server',
    settings: {
      doors: [{ port: ports.modbusOutlet }],
      map: [...entries, isThere],
      anyone: [
        { folder: '', may: 'read' },
        { folder: 'berth/1', may: 'write' },
      ],
    },
  })
}

interface Doors {
  doors: { port: number }[]
}

/** The ports of the demo's outlets, by their names and in the order of their doors. */
const portsOf = (ports: OutletPorts): Record<string, number[]> => ({
  [outletName]: [ports.opcua, ports.opcuaSecured],
  [brokerName]: [ports.mqtt, ports.mqttSecured],
  [serverName]: [ports.http],
  [panelName]: [ports.modbusOutlet],
})

/** An outlet of the demo with other ports; null where it has them already, or is none of the demo’s. */
export const movedTo = <S extends Doors>(name: string, settings: S, ports: OutletPorts): S | null => {
  const wanted = portsOf(ports)[name] ?? []
  const doors = settings.doors.map((door, i) => ({ ...door, port: wanted[i] ?? door.port }))
  return doors.some(({ port }, i) => port !== settings.doors[i]!.port) ? { ...settings, doors } : null
}
