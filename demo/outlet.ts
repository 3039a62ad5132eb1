import { hashPassword } from '#security/passwords'
import { outletContract, type OutletDraft } from '#shared/outlets/outlet'

export interface OutletPorts {
  opcua: number
  opcuaSecured: number
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

interface Doors {
  doors: { port: number }[]
}

/** The demo's outlet with other ports; null where it has them already. */
export const movedTo = <S extends Doors>(settings: S, ports: OutletPorts): S | null => {
  const wanted = [ports.opcua, ports.opcuaSecured]
  const doors = settings.doors.map((door, i) => ({ ...door, port: wanted[i] ?? door.port }))
  return doors.some(({ port }, i) => port !== settings.doors[i]!.port) ? { ...settings, doors } : null
}
