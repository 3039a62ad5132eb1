import { statfs } from 'node:fs/promises'
import { cpus, freemem, hostname, loadavg, release, totalmem, type, uptime } from 'node:os'
import type { NodeMachine } from '#shared/nodes'

const mb = (bytes: number) => Math.round(bytes / 1024 / 1024)

/** The machine of this node as it is now. @param folder where it keeps its state */
export const machineNow = async (folder: string): Promise<NodeMachine> => {
  const disk = await statfs(folder).catch(() => null)
  return {
    host: hostname(),
    system: `${type()} ${release()}`,
    cores: cpus().length,
    load: Math.round(loadavg()[0]! * 100) / 100,
    memoryMb: mb(totalmem()),
    memoryFreeMb: mb(freemem()),
    diskMb: disk && mb(disk.blocks * disk.bsize),
    diskFreeMb: disk && mb(disk.bavail * disk.bsize),
    upSeconds: Math.round(uptime()),
  }
}
