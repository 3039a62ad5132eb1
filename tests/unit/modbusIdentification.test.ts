import { describe, expect, it } from 'vitest'
import { identify, type Identity } from '#core/modbus/identification'

/** Who an outlet is, as the protocol asks for it (function 43, type 14). */

const identity: Identity = {
  ...{ vendor: 'Company identification', productCode: 'Product code XX', revision: 'V2.11', product: 'Panel', application: 'Harrow Sound' },
}
const asked = (...bytes: number[]) => identify(Buffer.of(0x2b, ...bytes), identity)
const text = (value: string) => [value.length, ...Buffer.from(value)]

describe('who a device is', () => {
  it('is told as in the example of the standard', () => {
    const said = asked(0x0e, 1, 0)
    expect(said).toEqual({
      ok: true,
      pdu: Buffer.of(
        ...[0x2b, 0x0e, 0x01, 0x82, 0, 0, 3],
        ...[0, ...text('Company identification'), 1, ...text('Product code XX'), 2, ...text('V2.11')],
      ),
    })
  })

  it('is told in full, from an object on, or one object alone', () => {
    const ids = (said: ReturnType<typeof asked>) => {
      const found: number[] = []
      if (said.ok) for (let at = 7; at < said.pdu.length; at += 2 + said.pdu[at + 1]!) found.push(said.pdu[at]!)
      return found
    }
    expect(ids(asked(0x0e, 2, 0))).toEqual([0, 1, 2, 4, 6])
    expect(ids(asked(0x0e, 3, 2))).toEqual([2, 4, 6])
    expect(ids(asked(0x0e, 2, 99))).toEqual([0, 1, 2, 4, 6])
    expect(ids(asked(0x0e, 4, 6))).toEqual([6])
  })

  it('goes on in the next reply where it does not fit into one', () => {
    const long = { ...identity, vendor: 'v'.repeat(150), productCode: 'p'.repeat(150) }
    const first = identify(Buffer.of(0x2b, 0x0e, 1, 0), long)
    expect(first.ok && [...first.pdu.subarray(4, 7)]).toEqual([0xff, 1, 1])
    const second = identify(Buffer.of(0x2b, 0x0e, 1, 1), long)
    expect(second.ok && [...second.pdu.subarray(4, 7)]).toEqual([0, 0, 2])
    expect(second.ok && second.pdu.length).toBeLessThanOrEqual(253)
  })

  it.each([
    ['another type', [0x0d, 1, 0], 1],
    ['half of a request', [0x0e, 1], 3],
    ['a code that is none', [0x0e, 5, 0], 3],
    ['an object that is not there', [0x0e, 4, 3], 2],
  ])('refuses %s', (_, bytes, exception) => expect(asked(...bytes)).toMatchObject({ ok: false, exception }))
})
