import { chmodSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { databaseUrl } from '../../launcher/postgres.mjs'
import { Stack } from '../../launcher/stack.mjs'
import { asked } from './askedAgain'
import { signInFirst, signInTo } from './signIn'
import { until } from './until'

interface StandinMeter {
  unit: number
  channels: { name: string; value: boolean | number | string }[]
  lastWrite: { text: string } | null
}

interface StandinArm {
  number: number
  clients: { name: string; fingerprint: string; trusted: boolean }[]
  state: Record<string, number>
}

/**
 * Everything that the launcher starts, on free ports, with an empty site, or the demo's, and the stand-ins beside it. Of the
 * cable arms only as many as a test is about: each takes some seconds to come.
 */
export const startSite = async ({ demoData = false, arms = 0 }: { demoData?: boolean; arms?: number } = {}) => {
  const folder = mkdtempSync(join(tmpdir(), 'conduit-site-'))
  chmodSync(folder, 0o755)
  const told: string[] = []
  const wishes = {
    web: 0,
    modbus: 0,
    control: 0,
    opcua: 0,
    opcuaSecured: 0,
    mqtt: 0,
    mqttSecured: 0,
    http: 0,
    modbusOutlet: 0,
    meterLine: 0,
    converter: 0,
    ventilation: 0,
    transformer: 0,
    sensors: 0,
    arm1: 0,
    arm2: 0,
    arm3: 0,
    quay: 0,
    tariff: 0,
    tariffSecured: 0,
    cloud: 0,
    cloudMqtt: 0,
  }
  const stack = new Stack({ folder, standins: true, throwaway: true, arms, demoData, wishes, tell: (text: string) => told.push(text) })
  try {
    await stack.start()
  } catch (error) {
    await stack.stop()
    throw error
  }
  const { web, control, modbus, opcua, rpc, arm1, ventilation, transformer, sensors, cloud, cloudMqtt } = stack.ports
  const base = `http://127.0.0.1:${web}`
  const admin = demoData
    ? { name: 'harbourmaster', password: 'harrow-sound' }
    : { name: stack.firstAccount!.name, password: 'a password for tests' }
  const cookie = demoData ? await signInTo(base, admin.name, admin.password) : await signInFirst(base, stack.firstAccount!, admin.password)
  const standins = `http://127.0.0.1:${control}/api`
  // while an arm loads its node set, the meters in the same process answer late
  await until(async () => ((await (await asked(`${standins}/arms`)).json()) as { ready: boolean }).ready, Boolean, 60)
  const post = async (url: string, body: unknown, method = 'POST') => {
    const response = await fetch(url, { method, body: JSON.stringify(body), headers: { 'content-type': 'application/json', cookie } })
    return { status: response.status, body: (await response.json()) as Record<string, unknown> }
  }
  const meter = async (unit: number) => {
    const { meters } = (await (await asked(`${standins}/meters`)).json()) as { meters: StandinMeter[] }
    return meters.find((candidate) => candidate.unit === unit)!
  }
  return {
    base,
    /** Of the site’s own cluster. */
    databaseUrl: databaseUrl(folder, stack.ports.database),
    /** Where database, logs and the kept copy lie. */
    folder,
    /** Of the administrator’s session. */
    cookie,
    admin,
    modbusPort: modbus,
    opcuaPort: opcua,
    armPort: arm1,
    ventilationPort: ventilation,
    transformerPort: transformer,
    sensorPort: sensors,
    cloudPort: cloud,
    cloudMqttPort: cloudMqtt,
    rpcPort: rpc,
    told,
    pids: () => stack.pids(),
    api: (path: string, body?: unknown, method?: string) =>
      body === undefined
        ? asked(`${base}/api${path}`, { headers: { cookie } }).then((r) => r.json() as Promise<unknown>)
        : post(`${base}/api${path}`, body, method),
    /** What a list of the API holds. */
    list: (path: string) =>
      asked(`${base}/api${path}`, { headers: { cookie } }).then(async (r) => ((await r.json()) as { items: unknown[] }).items),
    channel: async (unit: number, name: string) => (await meter(unit)).channels.find((channel) => channel.name === name)!.value,
    setChannel: (unit: number, channel: string, value: unknown) => post(`${standins}/meters/${unit}/value`, { channel, value }),
    arm: async (number = 1) => {
      const { arms } = (await (await asked(`${standins}/arms`)).json()) as { arms: StandinArm[] }
      return arms.find((candidate) => candidate.number === number)!
    },
    /** `fault`, `trust`, `drop`, `restart` or `value` of arm 1. */
    tellArm: (what: string, body: unknown = {}) => post(`${standins}/arms/1/${what}`, body),
    /** Of the building services’ ventilation. */
    setVentilationFault: (fault: string, on: boolean) => post(`${standins}/substation/fault`, { fault, on }),
    /** Plugs one of four sensors in at a port of the stand-in’s master; null: pulls it. */
    plug: (port: number, sensor: number | null) => post(`${standins}/sensors/plug`, { port, sensor }),
    setFault: (unit: number, fault: string | null) => post(`${standins}/meters/${unit}/fault`, { fault }),
    /** Ends one process with -9 and waits until the launcher has brought back another. */
    kill: async (name: string) => {
      const before = stack.pids()[name]!
      process.kill(before, 'SIGKILL')
      await until(
        () => stack.pids()[name],
        (pid) => pid !== undefined && pid !== before,
      )
    },
    stop: async () => {
      await stack.stop()
      rmSync(folder, { recursive: true, force: true })
    },
  }
}

export type Site = Awaited<ReturnType<typeof startSite>>
