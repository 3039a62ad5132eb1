import { readdir, readlink, stat } from 'node:fs/promises'
import { join, resolve } from 'node:path'
import type { MachinePort } from '#shared/serialPorts'

/**
 * The serial ports that a machine has now: under a name that stays where whatever is plugged in has one (as udev makes them), else
 * under the kernel's. What stands for no hardware is left out.
 * @param root of its file system
 */
export const machinePorts = async (root = '/'): Promise<MachinePort[]> => {
  const lasting = await lastingNames(root)
  const kernel = await kernelNames(root)
  const named = new Set(lasting.map(({ goesTo }) => goesTo))
  return [
    ...lasting.map(({ device, goesTo, about }) => ({ device, about: `${about}, now ${goesTo}` })),
    ...kernel.filter((device) => !named.has(device)).map((device) => ({ device, about: '' })),
  ]
}

const entriesOf = (folder: string): Promise<string[]> =>
  readdir(folder).then(
    (names) => names.sort(),
    () => [],
  )

const lastingNames = async (root: string) => {
  const folder = join(root, 'dev/serial/by-id')
  const links = await Promise.all(
    (await entriesOf(folder)).map(async (name) => {
      const target = await readlink(join(folder, name)).catch(() => null)
      if (target === null) return []
      const goesTo = `/${resolve('/dev/serial/by-id', target).replace(/^\/+/, '')}`
      return [{ device: `/dev/serial/by-id/${name}`, goesTo, about: name.replace(/^usb-/, '').replaceAll('_', ' ') }]
    }),
  )
  return links.flat()
}

/** Those behind which there is hardware: virtual terminals have no device of their own. */
const kernelNames = async (root: string): Promise<string[]> => {
  const names = (await entriesOf(join(root, 'sys/class/tty'))).filter((name) => name !== 'console')
  const real = await Promise.all(
    names.map(async (name) => {
      const has = await stat(join(root, 'sys/class/tty', name, 'device/driver')).then(
        () => true,
        () => false,
      )
      // ports of the chip set that nothing is wired to are listed by the kernel, too
      return has && !/serial8250$/.test(await readlink(join(root, 'sys/class/tty', name, 'device/driver')).catch(() => ''))
        ? [`/dev/${name}`]
        : []
    }),
  )
  return real.flat()
}
