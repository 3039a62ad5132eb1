import { fault, isFault, type Fault } from '#core/faults/catalogue'
import { takeBack } from '#db/takeBack'
import type { PairedThing } from '#shared/pairing'
import { within } from '#pacing/within'
import { steadyNow } from '#pacing/clock'
import type { Surroundings } from './surroundings'

const settleMs = 90_000
const lookMs = 200

const saveMs = 15_000

/** What was made, or why it could not be. What comes too late is taken back. */
export const saved = async (around: Surroundings, work: Promise<PairedThing>): Promise<PairedThing | Fault> => {
  try {
    return await within(saveMs, work)
  } catch (error) {
    void work.then(
      (made) => putBack(around, made),
      () => {},
    )
    return isFault(error) ? error : fault('database.away', {}, (error as Error).message)
  }
}

/**
 * Both sides decided. It holds once the two came together the ordinary way; else it is taken back here, and the other copy,
 * which sees the same, does so, too: nothing stays half paired. Null: it holds.
 */
export const settle = async (around: Surroundings, made: PairedThing, partner: string, signal: AbortSignal): Promise<Fault | null> => {
  const ms = around.settleMs ?? settleMs
  const end = steadyNow() + ms
  while (!areTogether(around.engine, made)) {
    if (steadyNow() > end || signal.aborted) return undone(around, made, partner, ms)
    await new Promise((resolve) => setTimeout(resolve, lookMs))
  }
  around.journal.note(made.name, `Paired with “${partner}”.`)
  return null
}

const areTogether = (engine: Surroundings['engine'], { of, id }: PairedThing): boolean =>
  of === 'link' ? engine.link(id)?.status().flow === 'flowing' : (engine.outlet(id)?.status().clients.length ?? 0) > 0

const undone = async (around: Surroundings, made: PairedThing, partner: string, ms: number): Promise<Fault> => {
  const { engine, journal } = around
  const seen = made.of === 'link' ? engine.link(made.id)?.status() : engine.outlet(made.id)?.status()
  const why = fault('pairing.no-session', { name: partner, seconds: Math.round(ms / 1000) }, seen?.sentence ?? '')
  journal.caution(made.name, why.what, why)
  await putBack(around, made)
  return why
}

const putBack = async ({ db, journal }: Surroundings, made: PairedThing) => {
  const outcome = await takeBack(db, 'Pairing', made.revision).catch((error: Error) => ({ problem: error.message }))
  if ('problem' in outcome) journal.trouble(made.name, `The pairing could not be taken back: ${outcome.problem}`)
}
