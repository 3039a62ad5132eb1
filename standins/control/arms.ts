import type { ArmServer } from '../opcua/armServer'
import { armFaultText, isArmFault } from '../opcua/faults'

interface Answer {
  status: number
  body: unknown
}

export const describeArms = (arms: readonly ArmServer[]) => ({ faults: armFaultText, arms: arms.map(describeArm) })

const describeArm = (server: ArmServer) => ({
  number: server.arm.number,
  name: server.name,
  url: server.url,
  certificate: server.certificate.toString('base64'),
  sessions: server.sessions,
  subscriptions: server.subscriptions,
  faults: server.activeFaults,
  clients: server.clients(),
  state: server.arm.state,
})

const done: Answer = { status: 200, body: { done: true } }
const problem = (text: string): Answer => ({ status: 400, body: { problem: text } })

/** Faults, trust and values of one cable arm; null where the path is none of ours. */
export const armRoute = async (
  arms: readonly ArmServer[],
  path: string,
  readBody: () => Promise<Record<string, unknown>>,
): Promise<Answer | null> => {
  const match = /^\/api\/arms\/(\d+)\/(fault|trust|drop|restart|value)$/.exec(path)
  if (!match) return null
  const server = arms.find(({ arm }) => arm.number === Number(match[1]))
  if (!server) return problem(`there is no arm ${match[1]}`)
  const body = await readBody()
  switch (match[2]) {
    case 'fault':
      return switchFault(server, body)
    case 'trust':
      return trust(server, body)
    case 'value':
      return setValue(server, body)
    case 'restart':
      await server.restart()
      return done
    default:
      if (body.sessions) server.dropSessions()
      else server.dropConnections()
      return done
  }
}

const switchFault = async (server: ArmServer, { fault, on = true }: Record<string, unknown>): Promise<Answer> => {
  if (!isArmFault(fault)) return problem(`fault is one of ${Object.keys(armFaultText).join(', ')}`)
  await server.setFault(fault, on === true)
  return done
}

/** By the certificate itself, or by the fingerprint of one that waits. */
const trust = async (server: ArmServer, { certificate, fingerprint }: Record<string, unknown>): Promise<Answer> => {
  if (typeof certificate === 'string') {
    await server.trustCertificate(Buffer.from(certificate, 'base64'))
    return done
  }
  return (await server.trust(String(fingerprint))) ? done : problem('no certificate of that fingerprint waits here')
}

const setValue = (server: ArmServer, { name, value }: Record<string, unknown>): Answer => {
  const state = server.arm.state as unknown as Record<string, unknown>
  if (typeof name !== 'string' || typeof state[name] !== typeof value) return problem('name and value of what the arm has')
  state[name] = value
  return done
}
