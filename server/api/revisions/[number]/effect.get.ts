import { getRouterParam } from 'h3'
import { z } from 'zod'
import { numberText } from '#shared/fields'
import type { Effect } from '#shared/status'
import { engineClient } from '../../../runtime/engineClient'
import { checked, defineRoute } from '../../../answers/refusal'

const waitMs = 5000

/** What became of a revision in the engine: in force, or which things of it are not, and why. Waits for it a little. */
export default defineRoute('look', async (event): Promise<Effect> => {
  const { number } = checked({ number: getRouterParam(event, 'number') }, z.object({ number: numberText(1) }))
  const unknown: Effect = { revision: number, state: 'unknown', node: null, things: [] }
  return engineClient.call((engine) => engine.effect(number, waitMs), 2 * waitMs).catch(() => unknown)
})
