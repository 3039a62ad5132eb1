import { newTableProblems } from '#core/sql/createTable'
import { sqlSettings } from '#core/sql/settings'
import { createTable } from '#shared/api/links'
import { invalid } from '../../../answers/checked'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'
import { rowOf } from '../../../store/configuration'

export default defineRoute(createTable, async ({ params, body: { table, run } }) => {
  const dialect = sqlSettings.shape.dialect.safeParse((await rowOf('link', params.id)).settings.dialect)
  const problems = dialect.success ? newTableProblems(table, dialect.data) : ['This link goes to no database.']
  if (problems.length > 0) throw invalid(problems.map((message) => ({ path: 'table', message })))
  return { statements: valueOf(await engineClient.call((engine) => engine.createTable(params.id, table, run))) }
})
