import { bridgeContract } from '#core/bridges/settings'
import { Engine } from '#engine/engine'
import { linkContract } from '#shared/links/link'
import { tagDraft } from '#shared/tags'
import { configure } from '../support/configured'
import { blankMemory } from '../support/memory'
import { memoryJournal } from '../support/modbusSession'
import { testSecurity } from '../support/security'

/** A tag of a broker's topic, and a bridge that writes it to a register at every change. */
const { CONDUIT_BENCH_BROKER, CONDUIT_BENCH_DEVICE } = process.env
const engine = new Engine({ node: 'bench', journal: memoryJournal(), security: await testSecurity(), memory: blankMemory() })
const saved = { revision: 1 }
const link = (id: number, name: string, kind: string, port: number, more: object) => ({
  ...linkContract.parse({ name, kind, settings: { host: '127.0.0.1', port, ...more } }),
  ...{ id, ...saved },
})
const tag = (id: number, path: string, access: string, source: object) => ({
  ...tagDraft.parse({ path, type: 'uint32', access, source: { kind: 'point', ...source } }),
  ...{ id, ...saved },
})
await configure(engine, 1, {
  link: [
    link(1, 'Quay', 'mqtt', Number(CONDUIT_BENCH_BROKER), { version: '3.1.1' }),
    link(2, 'Gateway', 'modbus-tcp', Number(CONDUIT_BENCH_DEVICE), { unit: 11, interval: 1000, order: 'ABCD' }),
  ],
  tag: [
    tag(1, 'quay/count', 'read', { linkId: 1, address: 'quay/north/count', options: { path: '$.n' } }),
    tag(2, 'gateway/count', 'readwrite', { linkId: 2, address: 'holding/10' }),
  ],
  bridge: [
    {
      ...bridgeContract.parse({
        name: 'Through',
        when: [{ kind: 'change', tag: 'quay/count' }],
        send: [{ kind: 'tags', number: 1, away: { keep: 'latest' }, fields: [{ into: 'gateway/count', from: 'value' }] }],
      }),
      ...{ id: 1, ...saved },
    },
  ],
} as never)
setTimeout(() => process.send!('ready'), 2000)
process.once('disconnect', () => process.exit(0))
