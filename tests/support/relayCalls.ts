import { expect } from 'vitest'
import type { PairingOffer, Relay } from '#shared/pairing'
import { freePort } from '../../launcher/ports.mjs'
import { databaseIn } from './cluster'
import type { Answer } from './describedCalls'
import { closeAll, type Closing } from './engineOn'
import { copyOn } from './pairing'

type Call = (method: string, path: string, body?: unknown) => Promise<Answer>

/** What two copies that pair are asked for, once each; the other copy lives in a database of the same cluster. */
export const callRelays = async (call: Call, databaseUrl: string) => {
  const made = (
    await call('POST', '/relays/codes', { values: 'to-maker', host: '127.0.0.1', interface: '127.0.0.1', port: await freePort() })
  ).body as unknown as PairingOffer
  expect((await call('GET', '/relays/codes')).body).toMatchObject([{ id: made.id, state: 'open' }])
  expect((await call('DELETE', `/relays/codes/${made.id}`)).body).toEqual({ withdrawn: made.id })
  const closing: Closing = []
  try {
    const database = await databaseIn(databaseUrl)
    closing.push(() => database.db.destroy())
    const far = await copyOn(closing, database, {})
    const { code } = await far.make({ values: 'from-maker', port: await freePort() })
    const steps = (await call('POST', '/relays/pair', { code, take: { name: 'Described relay' } })).body as unknown as { fault: unknown }[]
    expect(steps.map(({ fault }) => fault)).toEqual(steps.map(() => null))
    const [relay] = (await call('GET', '/relays')).body as unknown as Relay[]
    expect(relay).toMatchObject({ of: 'link', name: 'Described relay', verdict: 'trusted' })
    await call('POST', '/relays/end', { of: 'link', id: relay!.id })
    await call('DELETE', `/links/${relay!.id}?tags=remove`)
  } finally {
    await closeAll(closing)
  }
}
