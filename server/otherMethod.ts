import { defineEventHandler } from 'h3'
import { fault } from '#core/faults/catalogue'
import { answerOrRefuse, Refusal } from './answers/refusal'

/** A known route, asked in a way that it does not take; `nuxt.config.ts` puts this behind each of them. */
export default defineEventHandler((event) =>
  answerOrRefuse(event, () => {
    const { handlers = {} } = (event.context.matchedRoute ?? {}) as { handlers?: object }
    const takes = Object.keys(handlers)
      .filter((method) => method !== 'all')
      .map((method) => method.toUpperCase())
    throw new Refusal(fault('entry.no-method', { method: event.method, path: event.path.split('?')[0]!, takes: takes.join(', ') }))
  }),
)
