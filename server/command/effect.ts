import { counted } from '#core/text/counted'
import { engineClient } from '../runtime/engineClient'
import { isRunning } from './run'

const connectMs = 3000
const waitMs = 10_000
const mostTold = 20

/** Saved is one thing, in force another: tells what became of a revision, thing by thing where something did not. */
export const tellEffect = async (revision: number) => {
  console.log(`Applied as revision ${revision}. It can be taken back on the page Site.`)
  if (!isRunning()) return console.log('The site does not run; it takes effect with its start.')
  for (let waited = 0; !engineClient.connected && waited < connectMs; waited += 50) await new Promise((resolve) => setTimeout(resolve, 50))
  const effect = await engineClient.call((engine) => engine.effect(revision, waitMs), 2 * waitMs).catch(() => null)
  if (effect?.state === 'in force') return console.log(`In force on ${effect.node}.`)
  if (effect?.state !== 'in part') return console.log('The engine has not come to it yet; Site shows what becomes of it.')
  console.log(`${counted(effect.things.length, 'thing')} not in force on ${effect.node}:`)
  for (const { name, fault } of effect.things.slice(0, mostTold)) console.log(`! ${name}: ${fault.what} ${fault.next}`)
}
