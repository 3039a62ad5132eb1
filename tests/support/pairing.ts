import { PairingDesk } from '#engine/pairing/desk'
import type { Surroundings } from '#engine/pairing/surroundings'
import { changeConfiguration } from '#db/configuration'
import { isFault } from '#core/faults/catalogue'
import { isGood } from '#core/tags/quality'
import { codeDraft, redeemed, type PairingOffer } from '#shared/pairing'
import type { CheckStep } from '#shared/status'
import { tagDraft } from '#shared/tags'
import { databaseFor, engineOn, type Closing } from './engineOn'

export const memoryTag = (path: string, start: number, more: object = {}) =>
  tagDraft.parse({ path, source: { kind: 'memory', start }, type: 'float64', ...more })

type More = Partial<Pick<Surroundings, 'settleMs'>>

/** A whole copy with some memory tags, and the desk at which it pairs. */
export const copyWith = async (closing: Closing, tags: Record<string, number> = {}, more: More = {}) =>
  copyOn(closing, await databaseFor(closing), tags, more)

export const copyOn = async (
  closing: Closing,
  database: Awaited<ReturnType<typeof databaseFor>>,
  tags: Record<string, number>,
  more: More = {},
) => {
  await changeConfiguration(database.db, 'test', 'made', (editor) =>
    editor.insert(
      'tag',
      Object.entries(tags).map(([path, start]) => memoryTag(path, start, { access: 'readwrite' })),
    ),
  )
  const running = await engineOn(closing, database)
  const { engine, journal, security } = running
  const desk = new PairingDesk({ db: database.db, engine, journal, security, ...more })
  closing.push(() => Promise.resolve(desk.close()))
  const make = async (draft: object): Promise<PairingOffer> => {
    const made = await desk.make(codeDraft.parse({ host: '127.0.0.1', interface: '127.0.0.1', ...draft }), 'ada')
    if (isFault(made)) throw new Error(made.what)
    return made
  }
  /** The last of each step; those of a refusal before the first: none. */
  const redeem = async (code: string, more: object = {}, signal = new AbortController().signal) => {
    const refused = desk.problemWith(code)
    if (refused) return { refused, steps: [] as CheckStep[], fault: refused }
    const work = desk.redeem(redeemed.parse({ code, ...more }), 'bob', signal)
    const steps = new Map<string, CheckStep>()
    for await (const step of work) steps.set(step.step, step)
    const all = [...steps.values()]
    return { refused: null, steps: all, fault: all.find(({ fault }) => fault)?.fault ?? null }
  }
  const value = (path: string) => {
    const handle = engine.tags.byPath(path)?.handle
    return handle !== undefined && isGood(engine.table.quality[handle]!) ? engine.table.values[handle] : undefined
  }
  const rows = async () => ({
    links: await database.db.selectFrom('link').selectAll().execute(),
    outlets: await database.db.selectFrom('outlet').selectAll().execute(),
    certificates: await database.db.selectFrom('certificate').selectAll().execute(),
  })
  const offer = (id: number) => desk.list().find((one) => one.id === id)!
  return { ...running, database, desk, make, redeem, value, rows, offer }
}
