import { becomeNode } from '../nodeStack.mjs'
import { stateFolder } from '../paths.mjs'
import { prepareToRun, say } from '../setup.mjs'
import { hasSite } from '../siteDatabase.mjs'
import { isStandby, refuseSecond } from '../stack.mjs'
import { start } from './start.mjs'

const help = `This machine as one that stands by for a site: it shares the database, and leads the site when the machine that leads it is gone.

  ./conduit standby CODE   by the code that the site shows under Site › Nodes; from then on start, stop, run and service are as usual
`

/** Makes this machine one that stands by for a site elsewhere, and starts it. */
export const standby = async () => {
  const code = process.argv[3]
  if (!code) return console.log(help)
  const folder = stateFolder('site')
  refuseSecond(folder)
  if (hasSite(folder) && !isStandby(folder))
    throw new Error(`There is a site here already, in ${folder}. Another CONDUIT_STATE gives this one a place.`)
  prepareToRun()
  const { node, site, fingerprint } = becomeNode(folder, code, 'standby')
  say(`This machine is the node “${node}” of “${site}” now, and stands by for it; its key is ${fingerprint.slice(0, 16)}….`)
  const ended = await start()
  console.log('To start it with the machine: ./conduit service')
  return ended
}
