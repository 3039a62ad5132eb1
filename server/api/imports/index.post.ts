import { sendTable } from '#shared/api/imports'
import { defineRoute } from '../../answers/route'
import { importBook } from '../../imports/importBook'
import { whoIs } from '../../store/configuration'

export default defineRoute(sendTable, ({ event, query, body }) => {
  const { name, encoding = null, delimiter = null, decimal = null, header = null, missing, below, program, link = null } = query
  const settings = { encoding, delimiter, decimal, header, columns: null, missing, below, link, program }
  return importBook.add(name, whoIs(event), body as Uint8Array, settings).status()
})
