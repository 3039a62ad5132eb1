import { afterEach, describe, expect, it } from 'vitest'
import { clientOf, openBroker } from '../support/brokerOutlet'
import { closeAll, type Closing } from '../support/engineOn'
import { openHttpOutlet } from '../support/httpOutlet'
import { until } from '../support/until'

/** What values are called, on the way to consumers; over OPC UA it is shown as the standard has it (`opcuaShown`). */

const closing: Closing = []
afterEach(() => closeAll(closing))

describe('names of values', () => {
  it('stand beside a tag over HTTP, also when they change', async () => {
    const outlet = await openHttpOutlet(closing)
    const tag = outlet.tag('hall/mode', 2, { type: 'uint32', names: [{ value: 2, name: 'Night' }] })
    expect((await outlet.ask('/tags/hall/mode')).body).toMatchObject({ value: 2, name: 'Night' })
    outlet.session.setTags([{ ...tag, names: [{ value: 2, name: 'At night' }] }], [])
    expect((await outlet.ask('/tags/hall/mode')).body).toMatchObject({ value: 2, name: 'At night' })
    outlet.set(tag, 3)
    expect((await outlet.ask('/tags/hall/mode')).body).not.toHaveProperty('name')
  })

  it('stand in the messages of a topic', async () => {
    const outlet = await openBroker(closing)
    const mode = outlet.tag('hall/mode', 2, { type: 'uint32', names: [{ value: 2, name: 'Night' }] })
    const { client, textsOn } = await clientOf(closing, outlet.port)
    await client.subscribeAsync('hall/mode')
    await until(() => textsOn('hall/mode').length === 1)
    outlet.set(mode, 3)
    await until(() => textsOn('hall/mode').length === 2)
    const told = textsOn('hall/mode').map((text) => JSON.parse(text) as { value: number; name?: string })
    expect(told.map(({ value, name }) => [value, name])).toEqual([
      [2, 'Night'],
      [3, undefined],
    ])
  })
})
