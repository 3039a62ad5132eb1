import { fault } from '#core/faults/catalogue'
import { defineRoute, Refusal } from '../answers/refusal'

/** Whatever no other route takes. */
export default defineRoute('anyone', (event) => {
  const [path] = event.path.split('?')
  throw new Refusal(fault('entry.no-route', { path: path!.slice(0, 200) }))
})
