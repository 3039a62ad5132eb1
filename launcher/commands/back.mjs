import { stateFolder } from '../paths.mjs'
import { prepareToRun, say } from '../setup.mjs'
import { hasSite, withDatabase } from '../siteDatabase.mjs'
import { refuseSecond } from '../stack.mjs'
import { goBack } from '../upgrade.mjs'

/** Goes back to how the database was before a newer version brought it to its form. */
export const back = async () => {
  const folder = stateFolder('site')
  refuseSecond(folder)
  prepareToRun()
  if (!hasSite(folder)) throw new Error('There is no site here yet.')
  const { facts, aside } = await withDatabase(folder, (url) => goBack(folder, url, process.argv.includes('--without-record')))
  say(`The site is as it was on ${facts.at.slice(0, 16).replace('T', ' ')} UTC, revision ${facts.revision}. ./conduit start starts it.`)
  say(`How it was until now is kept in before/${aside}.`)
  return 0
}
