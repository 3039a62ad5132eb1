import { statfs } from 'node:fs/promises'
import { arch, cpus, freemem, hostname, networkInterfaces, release, totalmem, type, uptime } from 'node:os'
import { zoneText } from '#core/text/moment'
import type { MachineFacts } from '#shared/handover'
import { run } from './command'

const mb = (bytes: number) => Math.round(bytes / 1024 / 1024)
const askMs = 2000
const mostText = 20_000

/** The machine as it is now, for whoever helps from afar. @param folder where the engine keeps its state; null: nowhere */
export const machineFacts = async (folder: string | null): Promise<MachineFacts> => {
  const [disk, routes, listening, clock] = await Promise.all([
    folder === null ? null : statfs(folder).catch(() => null),
    said('ip', ['route', 'show']),
    said('ss', ['-Hltun']),
    said('timedatectl', ['show']),
  ])
  return {
    host: hostname(),
    system: `${type()} ${release()} ${arch()}`,
    processor: cpus()[0]?.model ?? 'unknown',
    cores: cpus().length,
    memoryMb: mb(totalmem()),
    memoryFreeMb: mb(freemem()),
    diskFreeMb: disk && mb(disk.bavail * disk.bsize),
    upSeconds: Math.round(uptime()),
    clock: Date.now(),
    zone: zoneText(),
    node: process.version,
    addresses: Object.entries(networkInterfaces()).flatMap(([name, entries]) =>
      (entries ?? []).map(({ cidr, mac }) => `${name} ${cidr ?? ''} ${mac}`),
    ),
    ...{ routes, listening, clockState: clock },
  }
}

const said = async (program: string, args: string[]): Promise<string> => {
  const asked = await run(program, args, askMs)
  return asked.ok ? asked.out.slice(0, mostText) : ''
}
