import * as plain from 'node:http'
import * as secured from 'node:https'
import { afterEach, describe, expect, it } from 'vitest'
import { closeAll, type Closing } from '../support/engineOn'
import { openHttpOutlet } from '../support/httpOutlet'

/** The doors of an HTTP outlet, and what is seen of what passes there. */

const closing: Closing = []
afterEach(() => closeAll(closing))
const open = (...args: Parameters<typeof openHttpOutlet> extends [unknown, ...infer Rest] ? Rest : never) =>
  openHttpOutlet(closing, ...args)

describe('the doors of an HTTP outlet', () => {
  it('speak TLS with our certificate, and are checked from here', async () => {
    const outlet = await open({ doors: [{ tls: true }] })
    const steps: Record<string, string> = {}
    for await (const step of outlet.session.check(0)!) steps[step.step] = `${step.flow} ${step.evidence}`
    expect(steps).toMatchObject({
      answer: 'flowing status 200, gives its description without a name',
      others: expect.stringContaining('off') as string,
    })
    expect(steps.secured).toContain('our certificate')
    expect(outlet.session.status().addresses[0]).toMatch(/^https:/)
  })

  it.each([false, true])('show what passes as it is read, where it travels encrypted: %s', async (tls) => {
    const outlet = await open({ doors: [{ tls }] })
    outlet.tag('berth/1/power', 71.5)
    const { next } = outlet.wire.tap.look(outlet.wire.tap.end, 10)
    const get = tls ? secured.get : plain.get
    const agent = tls ? new secured.Agent({ keepAlive: true, rejectUnauthorized: false }) : new plain.Agent({ keepAlive: true })
    closing.push(async () => agent.destroy())
    const asked = () =>
      new Promise<string>((resolve, reject) => {
        const path = `http${tls ? 's' : ''}://127.0.0.1:${outlet.port}/tags/berth/1/power`
        const request = get(
          path,
          { agent },
          (answer) =>
            void answer
              .setEncoding('utf8')
              .toArray()
              .then((parts) => resolve(parts.join(''))),
        )
        request.once('error', reject)
      })
    const bodies = [await asked(), await asked()]
    const { frames } = outlet.wire.tap.look(next, 100)
    const told = (out: boolean) => frames.filter((frame) => frame.out === out).map(({ bytes }) => Buffer.from(bytes, 'base64').toString())
    expect(
      told(false)
        .join('')
        .match(/GET \/tags\/berth\/1\/power HTTP/g),
    ).toHaveLength(2)
    for (const body of bodies) expect(told(true).join('')).toContain(body)
  })
})
