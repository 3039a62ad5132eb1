import { ClientTCP_transport } from 'node-opcua-transport'
import { describe, expect, it } from 'vitest'
import { beforeFirstByte, keepTrying, requireInternals } from '#engine/opcua/internals'

/** What the OPC UA package keeps for itself and is used here all the same. */

describe('the package’s internals', () => {
  it('are where they were in the version that is installed', () => {
    expect(() => requireInternals()).not.toThrow()
  })

  it('are told with the version where one has moved: a method, or a field', () => {
    class Moved {
      renamed() {}
    }
    expect(() => requireInternals([[Moved, ['renamed']]])).not.toThrow()
    expect(() => requireInternals([[Moved, ['_install_socket']]])).toThrow(
      /node-opcua \d+\.\d+\.\d+ has no Moved\._install_socket any more; engine\/opcua\/internals\.ts/,
    )
  })

  it('are told in the same words where it only shows in use', () => {
    expect(() => keepTrying({} as never)).toThrow(/has no Object\.connectionStrategy any more/)
  })
})

describe('a socket', () => {
  it('is shown before it is installed', () => {
    const order: string[] = []
    const transport = new ClientTCP_transport()
    Object.assign(transport, { endpointUrl: 'opc.tcp://10.8.0.21:4840', _install_socket: () => order.push('installed') })
    beforeFirstByte(transport, (_, endpoint) => order.push(endpoint))
    ;(transport as unknown as { _install_socket(socket: object): void })._install_socket({})
    expect(order).toEqual(['opc.tcp://10.8.0.21:4840', 'installed'])
  })
})
