import { fault } from '#core/faults/catalogue'
import type { SqlSettings } from '#core/sql/settings'
import type { LinkDriver } from '../driver'
import { checkSql } from './check'
import { SqlLinkSession } from './session'

export const sqlDriver: LinkDriver<SqlSettings> = {
  open: (context) => new SqlLinkSession(context),
  check: checkSql,
  tryRead: () => Promise.resolve(noPoint('A database')),
}

const noPoint = (what: string) => ({
  ...{ stages: [], readings: [], wordsFrom: '', goesTo: [] },
  fault: fault('entry.unreadable', { problem: `${what} has no points that could be read.` }),
})
