import { fault, type Fault } from '#core/faults/catalogue'
import { tcpFault } from '#core/faults/tcp'
import { isForGood, stateText } from '#core/sql/states'
import type { SqlSettings } from '#core/sql/settings'

/** An error of either package, as far as it is looked into. */
interface DatabaseError extends Error {
  code?: string
  sqlState?: string
  errno?: number
}

/** What MySQL and MariaDB have no state of the standard for. */
const statesByNumber: Record<number, string> = {
  1366: '22007',
  1364: '23502',
  1265: '22001',
  3819: '23514',
  // of an account that may see all others: else it is refused with what it may not (1044)
  1049: '3D000',
  4025: '23514',
  1205: '40001',
  1526: '23514',
}

/** The SQLSTATE of an error; null: the database did not say it. */
export const stateOf = ({ code, sqlState, errno }: DatabaseError): string | null => {
  if (sqlState) return (errno !== undefined && statesByNumber[errno]) || sqlState.replace(/^#/, '')
  return code !== undefined && /^[0-9A-Z]{5}$/.test(code) ? code : null
}

const networkCodes = new Set(['ECONNREFUSED', 'EHOSTUNREACH', 'ENETUNREACH', 'ENOTFOUND', 'EAI_AGAIN', 'ETIMEDOUT', 'EADDRNOTAVAIL'])
const tlsWords = /SSL|TLS|certificate|self.signed|altnames/i
const strangeWords = /Packets out of order|Unexpected packet|unexpected response|unknown message|invalid response/i
const letInClasses = new Set(['28', '3D', '08'])

/** What went wrong, in the words of the catalogue. */
export const sqlFault = (error: DatabaseError, settings: SqlSettings, what = 'a statement'): Fault => {
  const { host, port, patience } = settings
  const state = stateOf(error)
  if (state !== null && letInClasses.has(state.slice(0, 2)))
    return fault('sql.refused', { host, port, state, words: stateText(state) }, error.message)
  if (state !== null) return fault('sql.statement', { what, state, words: stateText(state), problem: error.message }, error.message)
  if (error.code !== undefined && networkCodes.has(error.code)) return tcpFault(error as Error & { code: string }, host, port, '')
  if (tlsWords.test(error.message)) return fault('sql.tls', { host, port, problem: error.message }, error.message)
  if (strangeWords.test(error.message)) return fault('sql.not-sql', { host, port, problem: error.message }, error.message)
  if (/timeout|no answer within/i.test(error.message)) return fault('sql.silent', { host, port, ms: patience.answer }, error.message)
  return fault('sql.broken', { host, port }, error.message)
}

/** Whether the same row would be refused again; else the database is away, or not ready for anybody. */
export const isRefusal = (error: DatabaseError): boolean => {
  const state = stateOf(error)
  return state !== null && isForGood(state)
}

/** Whether the connection is to be believed no more: the database did not answer in words of its own. */
export const isBroken = (error: DatabaseError): boolean => {
  const state = stateOf(error)
  return state === null || state.startsWith('08') || state.startsWith('57P')
}
