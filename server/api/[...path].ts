import { defineEventHandler } from 'h3'
import { fault } from '#core/faults/catalogue'
import { answerOrRefuse, Refusal } from '../answers/refusal'

/** Whatever no other route takes. */
export default defineEventHandler((event) =>
  answerOrRefuse(event, () => {
    const [path] = event.path.split('?')
    throw new Refusal(fault('entry.no-route', { path: path!.slice(0, 200) }))
  }),
)
