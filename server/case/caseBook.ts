import { fault } from '#core/faults/catalogue'
import { isCase } from '#db/since'
import { Refusal } from '../answers/refusalError'
import { readCaseParts } from '../handover/caseParts'
import { engineClient, type Engine } from '../runtime/engineClient'
import { database } from '../store/database'
import { CaseEngine, type Told } from './caseEngine'

/** Looks whether this copy looks at a case by now; then what the engine there told takes the place of the engine. Asked after each change. */
export const lookForCase = async (): Promise<void> => {
  const site = await database().selectFrom('site').select([isCase, 'revision']).executeTakeFirstOrThrow()
  if (site.isCase === (engineClient.stand !== null)) return
  const told = site.isCase
    ? await readCaseParts(database(), ['status', 'statistics', 'checks', 'passed', 'calls', 'values', 'alarms'])
    : null
  engineClient.stand = site.isCase ? standIn(told) : null
  engineClient.onConnect()
}

/** Where the parts cannot be read, nothing is told, and all the same nobody asked. */
const standIn = (told: Told | null): Engine => {
  const engine = told && new CaseEngine(told, (viewer, values) => void engineClient.onDeliver(viewer, values, null))
  return new Proxy({} as Engine, {
    get: (_, name) => functionOf((engine as Record<string | symbol, unknown> | null)?.[name]),
  })
}

const functionOf = (own: unknown) => {
  const called = async (...given: unknown[]): Promise<unknown> => {
    if (typeof own !== 'function') throw new Refusal(fault('case.nothing', {}))
    return (own as (...given: unknown[]) => unknown)(...given)
  }
  return Object.assign(called, { asEvent: (...given: unknown[]) => called(...given).catch(() => {}) })
}
