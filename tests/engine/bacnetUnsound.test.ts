import { afterEach, describe, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import type { LinkBrowser } from '#engine/links/driver'
import type { Closing } from '../support/engineOn'
import { rawServices } from '../support/rawServices'
import { deviceSettings, openBacnet } from '../support/substation'
import { until } from '../support/until'

const closing: Closing = []
afterEach(async () => {
  for (const close of closing.splice(0)) await close()
})

describe('what a sound device never sends', () => {
  const wanted = [{ address: '7:AI1', type: 'float32' as const }]
  const readOf = 12
  const hex = (text: string) => Buffer.from(text.replaceAll(' ', ''), 'hex')
  /** What it says of itself when it is looked for: device 7, 1,476 bytes, answers in parts. */
  const itself = (property: number): string => ({ 75: 'C4 02 00 00 07', 62: '22 05 C4', 107: '91 00' })[property] ?? '44 41 AC 00 00'
  const ack = (invoke: number, object: string, property: number, value: string) =>
    hex(`30 ${invoke.toString(16).padStart(2, '0')} 0C 0C ${object} 19 ${property.toString(16).padStart(2, '0')} 3E ${value} 3F`)
  const plain = (content: Buffer) => ({ object: content.subarray(1, 5).toString('hex'), property: content.at(-1)! })

  it('an answer from another station belongs to nobody, and is told beside the silence', async () => {
    let isStrange = false
    const { port } = await rawServices(closing, ({ invoke, service, content }, reply) => {
      if (service !== readOf) return reply(Buffer.from([0x60, invoke, 9]))
      const { object, property } = plain(content)
      reply(ack(invoke, object, property, itself(property)), isStrange ? 'another port' : 'itself')
    })
    const link = openBacnet(closing, deviceSettings(port), wanted)
    await link.holds('7:AI1', 21.5)
    isStrange = true
    await link.is('7:AI1', quality.BadNoCommunication)
    await until(() => link.session.status().fault?.evidence.includes('came from 127.0.0.1'))
  })

  it('bytes that are no frame, and answers to other questions, are taken for nothing', async () => {
    const { port } = await rawServices(closing, ({ invoke, service, content }, reply, raw) => {
      for (const noise of ['', '81', '81 0A 00 FF', '81 0B 00 06 01 20', '81 0A 00 07 01 00 F0', '81 0A 00 0A 01 00 30 01 0C'])
        raw(hex(noise))
      if (service !== readOf) return reply(Buffer.from([0x60, invoke, 9]))
      const { object, property } = plain(content)
      // the flags of another object
      if (property === 111) return reply(ack(invoke, '00 00 00 63', property, '82 04 F0'))
      reply(ack(invoke, object, property, itself(property)))
    })
    const link = openBacnet(closing, deviceSettings(port), wanted)
    await link.holds('7:AI1', 21.5)
    expect(link.quality('7:AI1')).toBe(quality.Good)
  })

  it('a long answer comes in parts, one of them twice and one late', async () => {
    const objects = Array.from(
      { length: 300 },
      (_, i) => `C4 00 00 ${(i >> 8).toString(16).padStart(2, '0')} ${(i & 255).toString(16).padStart(2, '0')}`,
    )
    const { port, receipts } = await rawServices(closing, ({ invoke, service, content }, reply) => {
      if (service !== readOf) return reply(Buffer.from([0x60, invoke, 9]))
      const { object, property } = plain(content)
      if (property !== 76) return reply(ack(invoke, object, property, itself(property)))
      const whole = hex(`0C ${object} 19 4C 3E ${objects.join(' ')} 3F`)
      const part = (number: number) => {
        const isLast = number === 3
        const bytes = whole.subarray(number * 400, isLast ? undefined : (number + 1) * 400)
        return Buffer.concat([Buffer.from([isLast ? 0x38 : 0x3c, invoke, number, 4, readOf]), bytes])
      }
      for (const number of [0, 1, 1, 3]) reply(part(number))
      setTimeout(() => [2, 3].forEach((number) => reply(part(number))), 50)
    })
    const link = openBacnet(closing, deviceSettings(port), [])
    await until(() => 'children' in link.session.browser())
    const { nodes } = await (link.session.browser() as LinkBrowser).children({ address: '7:analog-input', member: '' })
    expect(nodes).toHaveLength(300)
    expect(receipts.length).toBeGreaterThan(2)
  })
})
