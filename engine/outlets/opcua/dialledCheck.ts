import type { Fault } from '#core/faults/catalogue'
import { hostText } from '#core/opcua/endpointAddress'
import type { DialledClient } from '#shared/outlets/opcuaServer'
import type { DialledStatus } from '#shared/outlets/opcuaServerStatus'
import type { CheckStep } from '#shared/status'
import { checkSteps } from '../../links/checkSteps'
import { resolveName } from '../../wire/resolveName'
import { Wire } from '../../wire/wire'

const { waiting, sound, failed, open, notReached } = checkSteps({ name: 'Name', port: 'Port', taken: 'Taken up' })
const connectMs = 3000

/** Goes to where a client awaits us, and tells whether it takes up what we open. */
export async function* checkDialled(one: { client: DialledClient; status: DialledStatus }): AsyncGenerator<CheckStep> {
  const { host, port } = one.client
  const group = `Dialled: ${hostText(host)}:${port}`
  for await (const step of walk(one)) yield { ...step, group }
}

async function* walk({ client: { host, port }, status }: { client: DialledClient; status: DialledStatus }): AsyncGenerator<CheckStep> {
  yield waiting('name')
  const name = await resolveName(host, port, connectMs)
  if ('fault' in name) {
    yield failed('name', name.fault, name.ms)
    return yield* notReached('name')
  }
  yield sound('name', name.evidence, name.ms)

  yield waiting('port')
  const started = performance.now()
  const wire = new Wire()
  try {
    // it says nothing, and is closed again: the client has nothing to take up
    const socket = await wire.dial({ host: name.address, port, connectMs })
    socket.destroy()
  } catch (why) {
    yield failed('port', why as Fault, performance.now() - started)
    return yield* notReached('port')
  } finally {
    wire.close()
  }
  yield sound('port', `TCP ${port} open`, performance.now() - started)
  if (status.taken > 0) yield sound('taken', status.sentence, null)
  else if (status.fault) yield failed('taken', status.fault, null)
  else yield open('taken', 'waiting', status.sentence)
}
