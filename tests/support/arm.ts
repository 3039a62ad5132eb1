import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Berth } from '#standins/physics/berth'
import { CableArm } from '#standins/physics/cableArm'
import { ArmServer } from '#standins/opcua/armServer'

/** A cable arm's server on a free port, with its physics standing still unless advanced. */
export const startArm = async (number = 1, cells = 0) => {
  const folder = mkdtempSync(join(tmpdir(), 'conduit-arm-'))
  const berth = new Berth({ voltage: 11_000, load: 1480, powerFactor: 0.978, ramp: 90, swing: 0, swingPeriod: 97 }, 48_211_400, true)
  const arm = new CableArm(number, berth)
  arm.advance(0.1)
  const server = new ArmServer(arm, { folder, port: 0, cells })
  await server.start()
  return {
    arm,
    server,
    get port() {
      return server.port
    },
    stop: async () => {
      await server.stop()
      rmSync(folder, { recursive: true, force: true })
    },
  }
}
