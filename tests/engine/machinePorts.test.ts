import { mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, describe, expect, it } from 'vitest'
import { machinePorts } from '#engine/serial/machinePorts'

let root = ''
afterEach(() => rmSync(root, { recursive: true, force: true }))

const machine = () => {
  root = mkdtempSync(join(tmpdir(), 'conduit-ports-'))
  const tty = (name: string, driver: string | null) => {
    const folder = join(root, 'sys/class/tty', name)
    mkdirSync(join(folder, 'device'), { recursive: true })
    if (driver === null) return
    mkdirSync(join(root, 'sys/bus', driver), { recursive: true })
    symlinkSync(join(root, 'sys/bus', driver), join(folder, 'device/driver'))
  }
  return { tty }
}

describe('the serial ports of a machine', () => {
  it('stand under the name that lasts, with what is plugged in; those without hardware are left out', async () => {
    const { tty } = machine()
    tty('ttyUSB0', 'usb-serial')
    tty('ttyAMA0', 'uart-pl011')
    tty('ttyS0', 'serial8250')
    tty('tty7', null)
    mkdirSync(join(root, 'dev/serial/by-id'), { recursive: true })
    symlinkSync('../../ttyUSB0', join(root, 'dev/serial/by-id/usb-Harrow_Line_Adapter_0042-if00'))
    expect(await machinePorts(root)).toEqual([
      { device: '/dev/serial/by-id/usb-Harrow_Line_Adapter_0042-if00', about: 'Harrow Line Adapter 0042-if00, now /dev/ttyUSB0' },
      { device: '/dev/ttyAMA0', about: '' },
    ])
  })

  it('are none where there is nothing to look at, and a link that leads nowhere hides no other', async () => {
    const { tty } = machine()
    tty('ttyACM0', 'cdc_acm')
    mkdirSync(join(root, 'dev/serial/by-id'), { recursive: true })
    writeFileSync(join(root, 'dev/serial/by-id/no-link'), '')
    expect(await machinePorts(root)).toEqual([{ device: '/dev/ttyACM0', about: '' }])
    expect(await machinePorts(join(root, 'nowhere'))).toEqual([])
  })
})
