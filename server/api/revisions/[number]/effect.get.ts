import { revisionEffect } from '#shared/api/site'
import type { Effect } from '#shared/status'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

const waitMs = 5000

export default defineRoute(revisionEffect, async ({ params: { number } }) => {
  const unknown: Effect = { revision: number, state: 'unknown', node: null, waits: [], things: [] }
  return engineClient.call((engine) => engine.effect(number, waitMs), 2 * waitMs).catch(() => unknown)
})
