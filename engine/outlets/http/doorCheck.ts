import { request as requestHttp } from 'node:http'
import { request as requestHttps } from 'node:https'
import { httpSchemeOf, type HttpDoor } from '#shared/outlets/httpServer'
import type { DoorStatus } from '#shared/outlets/doorStatus'
import type { CheckStep } from '#shared/status'
import type { OwnCertificate } from '#security/ownCertificate'
import type { Wire } from '../../wire/wire'
import { dialDoor, tlsDoorSteps } from '../doors/dialDoor'
import { walkToDoor } from '../doors/walkToDoor'

const answerMs = 3000

interface Checked {
  door: HttpDoor
  status: DoorStatus
  own: OwnCertificate
  wire: Wire
}

/** Comes to a door as a program does, without a name. */
export const checkDoor = ({ door, status, own, wire }: Checked): AsyncGenerator<CheckStep> =>
  walkToDoor(tlsDoorSteps, { door, status }, (numeric) => dialDoor(numeric, { door, own, wire, answer: () => answerOf(numeric, door) }))

/** What the server says to somebody without a name who asks for its description. */
const answerOf = (host: string, door: HttpDoor): Promise<string> =>
  new Promise((resolve, reject) => {
    // what is tried is whether the server answers; whom a program trusts is its own affair
    const options = { host, port: door.port, path: '/openapi.json', agent: false, rejectUnauthorized: false, timeout: answerMs }
    const ask = httpSchemeOf(door) === 'https' ? requestHttps(options) : requestHttp(options)
    ask.once('response', (response) => {
      response.resume()
      const { statusCode = 0 } = response
      if (statusCode === 200) resolve('status 200, gives its description without a name')
      else if (statusCode === 401 && !door.anonymous) resolve('status 401, asks for a name, as it is set to')
      else reject(new Error(`status ${statusCode}`))
    })
    ask.once('timeout', () => ask.destroy(new Error(`no answer within ${answerMs} ms`)))
    ask.once('error', reject)
    ask.end()
  })
